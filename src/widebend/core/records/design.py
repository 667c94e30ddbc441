"""One whole system, and the shop rules and stock it is made with."""

from __future__ import annotations

from typing import Annotated, Any, Literal, Self
from weakref import WeakValueDictionary

from pydantic import Field, ValidationError, model_validator

from ...facts import Material, Process
from ..errors import EditError
from ..units import Length
from .base import FORMAT, MOST_ITEMS, Name, NotNegative, PortName, Positive, Record, unique_ids
from .engine import Celsius, Engine
from .hanging import Hanger, HangSchool
from .hardware import Part, Port
from .runs import Attachment, Cover, Fitted, InLine, Run, Tap
from .sound import SoundReading
from .survey import Survey
from .use import Configuration, Use


class StockBend(Record):
    """A mandrel bend on the shelf: its angle, radius and the straight on each end; of any tube where none is said."""

    angle_deg: Annotated[float, Field(gt=0, le=180)]
    clr_mm: Positive
    leg_mm: NotNegative
    od_mm: Positive | None = None
    wall_mm: Positive | None = None
    material: Material | None = None


Price = Annotated[float, Field(ge=0, le=1e6, allow_inf_nan=False)]


class Prices(Record):
    """A price the shop charges or pays, in its own currency; None where it is not known."""

    tube_m: Price | None = None
    bend: Price | None = None
    joint: Price | None = None


GONE = ("gas_l_m",)  # until 0.10 a rate of gas a metre; it is summed up from the welds now
RENAMED = {"bend_k": "k_factor", "pulse_heat": "pulsation_factor", "air_under": "airflow_share"}  # until 0.12


class Rules(Record):
    """The shop's needed gaps and rules of placing; docs/sources.md says where each default is from. All can change."""

    @model_validator(mode="before")
    @classmethod
    def _as_it_was(cls, given: Any) -> Any:
        """Read rules that an older program kept: some had other names, and one is no rule any more."""
        if not isinstance(given, dict):
            return given
        return {RENAMED.get(key, key): value for key, value in given.items() if key not in GONE}

    hard_gap_mm: NotNegative = Length(10.0)
    engine_gap_mm: NotNegative = Length(20.0)
    axle_gap_mm: NotNegative = Length(20.0)
    driveline_gap_mm: NotNegative = Length(20.0)
    steering_gap_mm: NotNegative = Length(20.0)
    moving_gap_mm: NotNegative = Length(20.0)
    fuel_line_gap_mm: NotNegative = Length(50.0)
    fuel_tank_gap_mm: NotNegative = Length(50.0)
    brake_hose_gap_mm: NotNegative = Length(50.0)
    wiring_gap_mm: NotNegative = Length(50.0)
    rubber_boot_gap_mm: NotNegative = Length(50.0)
    plastic_gap_mm: NotNegative = Length(50.0)
    heat_shy_gap_mm: NotNegative = Length(50.0)
    soft_gap_mm: NotNegative = Length(30.0)
    low_line_gap_mm: NotNegative = Length(0.0)
    own_gap_mm: NotNegative = Length(10.0)
    hanger_swing_mm: NotNegative = Length(8.0)
    sag_mm: NotNegative = Length(10.0)
    span_mm: Positive = Length(1500.0)
    flex_across_n: Annotated[float, Field(ge=0, le=5000)] = 40.0
    flex_bend_nm: Annotated[float, Field(ge=0, le=500)] = 5.0
    rubber_heat_mm: NotNegative = Length(25.0)
    rod_pull_mm: NotNegative = Length(6.0)
    tack_nm: Annotated[float, Field(gt=0, le=2000)] = 40.0
    k_factor: Annotated[float, Field(ge=0.2, le=0.6)] = 0.42
    idle_band: Annotated[float, Field(ge=0, le=0.9)] = 0.2
    ambient_c: Annotated[float, Field(ge=-40, le=60)] = 25.0
    roughness_mm: Annotated[float, Field(gt=0, le=2)] = 0.045
    pulsation_factor: Annotated[float, Field(ge=1, le=5)] = 1.6
    airflow_share: Annotated[float, Field(ge=0, le=1)] = 0.3
    fuel_line_c: Celsius = 100.0
    fuel_tank_c: Celsius = 80.0
    brake_hose_c: Celsius = 120.0
    wiring_c: Celsius = 90.0
    rubber_boot_c: Celsius = 100.0
    plastic_c: Celsius = 80.0
    heat_shy_c: Celsius = 80.0
    soft_c: Celsius = 90.0
    grass_c: Celsius = 250.0
    cabin_low_hz: Annotated[float, Field(ge=16, le=400)] = 45.0
    cabin_high_hz: Annotated[float, Field(ge=16, le=400)] = 140.0
    drone_db: Annotated[float, Field(ge=1, le=30)] = 4.0
    hot_rise_k: Annotated[float, Field(ge=0, le=1000)] = 400.0
    sensor_from_turbine_mm: NotNegative = Length(300.0)
    sensor_above_level_deg: Annotated[float, Field(ge=0, le=90)] = 10.0
    sensor_room_mm: NotNegative = Length(70.0)
    boss_od_mm: Positive = Length(28.0)
    boss_hole_mm: Positive = Length(22.0)
    branch_deg: Annotated[float, Field(gt=0, le=90)] = 45.0
    torch_room_mm: NotNegative = Length(60.0)
    tip_gap_mm: NotNegative = Length(10.0)
    muffler_floor_gap_mm: NotNegative = Length(25.0)
    shielded_gap_mm: NotNegative = Length(25.0)
    outlet_clear_mm: NotNegative = Length(300.0)
    longest_section_mm: Positive = Length(2400.0)
    thick_to_thin: Annotated[float, Field(ge=1, le=20)] = 2.0
    pie_clr_od: Annotated[float, Field(ge=0.55, le=5)] = 0.75
    pie_turn_deg: Annotated[float, Field(gt=0, le=45)] = 15.0
    taped_mm: NotNegative = Length(3.0)
    trim_deg: Annotated[float, Field(ge=0, le=30)] = 10.0
    cut_spread_mm: Positive = Length(0.5)
    saw_spread_deg: Annotated[float, Field(gt=0, le=5)] = 0.15
    bend_spread_deg: Annotated[float, Field(gt=0, le=5)] = 0.4
    radius_spread: Annotated[float, Field(gt=0, le=0.1)] = 0.01
    clock_spread_mm: Positive = Length(1.0)
    tack_spread_deg: Annotated[float, Field(gt=0, le=5)] = 0.25
    weld_spread_deg: Annotated[float, Field(gt=0, le=5)] = 0.2
    fit_mm: Positive = Length(0.8)
    fit_deg: Annotated[float, Field(gt=0, le=5)] = 0.5
    flex_deg: Annotated[float, Field(ge=0, le=20)] = 2.0
    least_ring_mm: NotNegative = Length(20.0)
    least_throat_mm: NotNegative = Length(6.0)
    least_slip_mm: NotNegative = Length(25.0)
    bar_mm: Positive = Length(6000.0)
    facing_mm: NotNegative = Length(0.0)
    usable_rest_mm: NotNegative = Length(150.0)
    vice_hold_mm: NotNegative = Length(60.0)
    filler_g_m: Annotated[float, Field(ge=0, le=1000)] = 25.0
    tig_l_min: Annotated[float, Field(ge=0, le=40)] = 9.0
    mig_l_min: Annotated[float, Field(ge=0, le=40)] = 12.0
    cuts_a_disc: Annotated[float, Field(ge=1, le=1000)] = 40.0


class Welding(Record):
    """How this job is welded: the process, what guards the root, and in which order it is done."""

    process: Process = "TIG"
    root: Literal["purge", "back flux", "none"] = "purge"
    order: Literal["tack all, then weld", "joint by joint"] = "tack all, then weld"
    plug_mm: Positive = Field(Length(150.0), description="how far from a joint the purge plugs stand")


Growth = Literal["one mean", "by piece"]
HeatGaps = Literal["fixed", "at cruise", "at full power"]


class Settings(Record):
    """Materials and options of a job."""

    rules: Rules = Rules()
    clr_mm: Annotated[tuple[Positive, ...], Field(min_length=1, max_length=8)] = (Length(95.25),)
    angles_deg: Annotated[tuple[Annotated[float, Field(gt=0, le=180)], ...], Field(max_length=24)] = (
        15.0,
        22.5,
        30.0,
        45.0,
        60.0,
        90.0,
    )
    free_angles: bool = True
    shortest_straight_mm: NotNegative = Length(40.0)
    stock: Annotated[tuple[StockBend, ...], Field(max_length=40)] = ()
    kerf_mm: NotNegative = Length(1.5)
    prices: Prices = Prices()
    use: Literal["road", "closed course"] = "road"
    engine: Engine | None = Field(None, description="none: not said yet")
    hang_school: HangSchool = "as it comes"
    clocked: Literal["line to line", "to the vehicle"] = Field(
        "line to line", description="how the clock of each joint is set when it is tacked"
    )
    welding: Welding = Welding()
    heat_gaps: HeatGaps = Field(
        "fixed", description="needed gaps to what heat harms: the shop's, or by the skin beside"
    )
    growth: Growth = Field("one mean", description="hot, all grows by the shop's mean, or each piece by its own heat")
    fixed_at: PortName | None = Field(None, description="where the hot system is held; none: where it starts")


# designs that were looked at and are still in use: the same edit asks at its own end and where it is kept
_sound: WeakValueDictionary[int, Design] = WeakValueDictionary()


class Design(Record):
    """One whole system: survey, parts, runs and what they were made from."""

    format: Literal["widebend-design"] = FORMAT
    version: Literal[1] = 1
    name: Name = ""
    survey: Survey = Survey()
    parts: Annotated[tuple[Part, ...], Field(max_length=MOST_ITEMS)] = ()
    runs: Annotated[tuple[Run, ...], Field(max_length=40)] = ()
    attachments: Annotated[tuple[Attachment, ...], Field(max_length=MOST_ITEMS)] = ()
    hangers: Annotated[tuple[Hanger, ...], Field(max_length=MOST_ITEMS)] = ()
    covers: Annotated[tuple[Cover, ...], Field(max_length=60)] = ()
    fitted: Annotated[tuple[Fitted, ...], Field(max_length=MOST_ITEMS)] = ()
    sounds: Annotated[tuple[SoundReading, ...], Field(max_length=60)] = ()
    use: Use = Use()
    configurations: Annotated[tuple[Configuration, ...], Field(max_length=12)] = ()
    notes: Annotated[str, Field(max_length=8000)] = ""
    settings: Settings = Settings()

    @model_validator(mode="after")
    def _hangs_together(self) -> Self:
        unique_ids("part", [p.id for p in self.parts])
        unique_ids("run", [r.id for r in self.runs])
        unique_ids("attachment", [a.id for a in self.attachments])
        unique_ids("configuration", [c.id for c in self.configurations])
        for run in self.runs:
            for end in (run.start, run.aim):
                if isinstance(end, str) and self.find_port(end) is None:
                    raise ValueError(f"run “{run.id}” names the port “{end}”, which no part has")
            for piece in run.pieces:
                if isinstance(piece, InLine):
                    self._check_in_line(piece)
            if isinstance(run.start, Tap):
                self._check_place("run", run.id, run.start.run, run.start.piece)
        for attached in self.attachments:
            self._check_place("attachment", attached.id, attached.run, attached.piece)
        self._check_covers()
        unique_ids("sound reading", [s.id for s in self.sounds])
        self._check_hangers()
        for made in self.fitted:
            run_of = self.run(made.run)
            if run_of is None or all(p.id != made.piece for p in run_of.pieces):
                raise ValueError(f"a piece of run “{made.run}” is on the vehicle: take it off on the Fit step first")
        if self.settings.fixed_at and self.find_port(self.settings.fixed_at) is None:
            raise ValueError(f"the system is held at “{self.settings.fixed_at}”, a port that no part has")
        self._check_twins()
        self._check_carried()
        return self

    def _check_covers(self) -> None:
        unique_ids("cover", [c.id for c in self.covers])
        for cover in self.covers:
            if cover.run is None and self.part(cover.part or "") is None:
                raise ValueError(f"cover “{cover.id}” is on part “{cover.part}”, which is not there")
            if cover.run is not None and self.run(cover.run) is None:
                raise ValueError(f"cover “{cover.id}” is on run “{cover.run}”, which is not there")

    def _check_hangers(self) -> None:
        unique_ids("hanger", [h.id for h in self.hangers])
        for hanger in self.hangers:
            if hanger.run is not None and hanger.piece is not None:
                self._check_place("hanger", hanger.id, hanger.run, hanger.piece)
            elif self.part(hanger.part or "") is None:
                raise ValueError(f"hanger “{hanger.id}” sits on part “{hanger.part}”, which is not there")

    def _check_twins(self) -> None:
        for run in self.runs:
            if run.twin_of is not None and (run.twin_of == run.id or self.run(run.twin_of) is None):
                raise ValueError(f"run “{run.id}” mirrors “{run.twin_of}”, which is no other run here")

    def _check_carried(self) -> None:
        """A part is in one line at most, and no run hangs by itself: what it starts from is laid before it."""
        carriers: dict[str, str] = {}
        for run in self.runs:
            for piece in run.pieces:
                if isinstance(piece, InLine):
                    if piece.part in carriers:
                        raise ValueError(f"part “{piece.part}” is in the line twice: once on run “{run.id}”")
                    carriers[piece.part] = run.id
        placed = {p.id for p in self.parts if p.placed}
        sound: set[str] = set()
        for run in self.runs:
            self._check_acyclic(run, carriers, placed, (), sound)

    def _check_acyclic(
        self, run: Run, carriers: dict[str, str], placed: set[str], above: tuple[str, ...], sound: set[str]
    ) -> None:
        """Raises ValueError when a run hangs on itself by what it, or a run it hangs on, starts from or aims for."""
        if run.id in above:
            raise ValueError(
                f"run “{run.id}” starts from or aims for what it carries itself, in a circle: place one part"
            )
        if run.id in sound:
            return
        for other in self._prerequisites(run, carriers, placed):
            self._check_acyclic(other, carriers, placed, (*above, run.id), sound)
        sound.add(run.id)

    def _prerequisites(self, run: Run, carriers: dict[str, str], placed: set[str]) -> list[Run]:
        """The runs that must be laid before this one and its miss can be: those that carry what it starts from or aims
        for, or that it leaves.
        """
        ends = [end.partition(".")[0] for end in (run.start, run.aim) if isinstance(end, str)]
        named = [carriers.get(part, "") for part in ends if part not in placed]
        if isinstance(run.start, Tap):
            named.append(run.start.run)
        return [found for name in named if (found := self.run(name)) is not None]

    def _check_place(self, what: str, name: str, run_id: str, piece_id: str) -> None:
        run = self.run(run_id)
        if run is None or all(p.id != piece_id for p in run.pieces):
            raise ValueError(f"{what} “{name}” sits on piece “{piece_id}” of run “{run_id}”, which is not there")

    def _check_in_line(self, piece: InLine) -> None:
        for port in (piece.enter, piece.leave):
            if self.find_port(f"{piece.part}.{port}") is None:
                raise ValueError(f"piece “{piece.id}” names the port “{piece.part}.{port}”, which no part has")

    def validated(self) -> Self:
        """This design with every rule of its record looked at again: the one door of an edit, whatever was changed and
        however. Its survey has a door of its own and stays as it is. Raises EditError.
        """
        if _sound.get(id(self)) is self:  # a record never changes: it was looked at just now
            return self
        bare = self.replace(survey=Survey())
        try:
            found = type(self).model_validate(bare.model_dump()).replace(survey=self.survey)
        except ValidationError as exc:
            fault = exc.errors(include_url=False)[0]
            where = ".".join(str(step) for step in fault["loc"])
            reason = fault["msg"].removeprefix("Value error, ")
            raise EditError(f"{where}: {reason}" if where else reason) from exc
        _sound[id(found)] = found
        return found

    def part(self, part_id: str) -> Part | None:
        return next((p for p in self.parts if p.id == part_id), None)

    def run(self, run_id: str) -> Run | None:
        return next((r for r in self.runs if r.id == run_id), None)

    def find_port(self, name: str) -> tuple[Part, Port] | None:
        part_id, _, port_id = name.partition(".")
        part = self.part(part_id)
        port = part.port(port_id) if part else None
        return (part, port) if part and port else None
