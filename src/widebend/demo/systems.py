"""Invented whole systems: twin banks with an X, a lowered truck, four tips at the rear, a downpipe of slices.

Geometrically real: every run is closed by the program's own closing, and what the review finds is true.
"""

from __future__ import annotations

from functools import lru_cache

from ..core.editing import add_boss, add_branch, add_part, joined, mirrored_item, on_port, placed_at, set_joint
from ..core.hardware import SHELF, item_of
from ..core.records import (
    Configuration,
    Design,
    EmissionPart,
    Engine,
    Gearbox,
    Group,
    HangPoint,
    InLine,
    Item,
    Joint,
    LowLine,
    Rails,
    Rock,
    Run,
    SegmentedBend,
    Settings,
    Straight,
    Survey,
    Tube,
    Use,
    Window,
)
from ..core.routing import propose, taken
from ..core.units import Length
from .examples import axle_travel, bar, block, roof

GEARS = (3.4, 2.1, 1.45, 1.0, 0.75)


def _together(*radii_mm: float, **engine: object) -> Settings:
    """A shop that cuts bends and welds them to each other without a straight between; and what fires into it."""
    radii = tuple(Length(r) for r in radii_mm)
    return Settings(clr_mm=radii, shortest_straight_mm=Length(0.0), engine=Engine.model_validate(engine))


def _gears(final: float, rolling_mm: float = 2050.0) -> Gearbox:
    return Gearbox(ratios=GEARS, final=final, rolling_mm=Length(rolling_mm))


def _item(key: str, **values: float) -> Item:
    kind = SHELF[key]
    return item_of(key, kind.name, {m.key: m.usual for m in kind.measures} | values)


def _set(
    design: Design,
    key: str,
    name: str,
    at: tuple[float, float, float],
    way: tuple[float, float, float] = (1, 0, 0),
    *,
    mirrored: bool = False,
    mass_kg: float | None = None,
    **values: float,
) -> tuple[Design, str]:
    item = _item(key, **values).replace(mass_kg=mass_kg)
    return add_part(design, mirrored_item(item) if mirrored else item, name, placed_at(at, way))


def _on(
    design: Design,
    key: str,
    name: str,
    port: str,
    *,
    mirrored: bool = False,
    mass_kg: float | None = None,
    **values: float,
) -> tuple[Design, str]:
    item = _item(key, **values).replace(mass_kg=mass_kg)
    item = mirrored_item(item) if mirrored else item
    return add_part(design, item, name, on_port(design, item, port))


def _carry(design: Design, run_id: str, key: str, name: str, lead: float, mass_kg: float, **values: float) -> Design:
    """Hardware put at the end of a run as it stands, behind a straight."""
    item = _item(key, **values).replace(mass_kg=mass_kg)
    design, part = add_part(design, item, name, None)
    run = _run(design, run_id)
    n = len(run.pieces)
    pieces = (*run.pieces, Straight(id=f"p{n + 1}", length_mm=Length(lead)), InLine(id=f"p{n + 2}", part=part))
    return _with_run(design, run.replace(pieces=pieces))


def _run(design: Design, run_id: str) -> Run:
    run = design.run(run_id)
    assert run is not None  # made by the caller
    return run


def _with_run(design: Design, run: Run) -> Design:
    runs = tuple(run if r.id == run.id else r for r in design.runs)
    return design.replace(runs=runs)


def _closed(design: Design, run_id: str) -> Design:
    """The run closed with the first answer that keeps its gaps, else the best there is."""
    return taken(design, run_id, propose(design, run_id), 0)


def _thin(od: float, material: str = "304") -> Tube:
    return Tube(od_mm=Length(od), wall_mm=Length(1.5), material=material)  # type: ignore[arg-type]


def _outline(wide: float, high: float, corner: float = 30.0) -> tuple[tuple[Length, Length], ...]:
    """A rectangle with its corners cut off."""
    w, h, c = wide / 2, high / 2, corner
    points = ((-w + c, -h), (w - c, -h), (w, -h + c), (w, h - c), (w - c, h), (-w + c, h), (-w, h - c), (-w, -h + c))
    return tuple((Length(x), Length(y)) for x, y in points)


def _cut_out(name: str, at: tuple[float, float, float], wide: float, high: float) -> Window:
    point = (Length(at[0]), Length(at[1]), Length(at[2]))
    return Window(id=name.replace(" ", "-"), name=name, center=point, outline=_outline(wide, high))


def _hole(point_id: str, name: str, x: float, y: float, z: float, **more: str) -> HangPoint:
    """A spare bolt hole."""
    at = (Length(x), Length(y), Length(z))
    return HangPoint(id=point_id, name=name, point=at, kind="spare bolt hole", **{"thread": "M8", **more})  # type: ignore[arg-type]


def coupe_survey() -> Survey:
    """A rear-drive coupe with a V engine: two banks, a propshaft between, a rear axle on arms."""
    return Survey(
        things=(
            block("gearbox", "gearbox", (600, -140, 240), (1350, 140, 520), moves_with="engine"),
            bar("propshaft", "propshaft", (1350, 0, 400), (3000, 0, 380), 40, moves_with="driveline"),
            block("brace", "tunnel brace", (1560, -360, 330), (1620, 360, 350)),
            bar("shafts", "drive shafts", (3120, -620, 400), (3120, 620, 400), 30, moves_with="rear-axle"),
            block("diff", "final drive", (3000, -130, 300), (3230, 130, 480)),
            block(
                "tank", "fuel tank", (2450, -300, 400), (2900, 300, 560), nature="heat-shy", heat_shy_what="fuel tank"
            ),
            block("spare", "spare well", (3500, -240, 330), (4050, 240, 620)),
            block("bumper-l", "bumper, left of the plate", (4260, -340, 250), (4330, -80, 480), nature="soft"),
            block("bumper-r", "bumper, right of the plate", (4260, 80, 250), (4330, 340, 480), nature="soft"),
            roof("floor", "floor", 600),
        ),
        groups=(
            axle_travel(60, 60),
            Group(
                id="engine",
                name="engine",
                motion=Rock(about=(Length(300), Length(0), Length(450)), axis=(1, 0, 0), deg=2.0),
            ),
            Group(id="driveline", name="driveline", states=axle_travel(10, 10).states),
        ),
        windows=(
            _cut_out("left cut-out", (4295, -470, 290), 220, 130),
            _cut_out("right cut-out", (4295, 470, 290), 214, 130),
        ),
        low_line=LowLine(d=Length(130)),
        rails=Rails(left_y_mm=Length(-420), right_y_mm=Length(420)),
        hang_points=(
            HangPoint(id="h1", name="left rear rubber", point=(Length(3600), Length(-420), Length(420))),
            HangPoint(id="h2", name="right rear rubber", point=(Length(3600), Length(420), Length(420))),
            _hole("h3", "left tunnel bolt", 2100, -170, 380),
            _hole("h4", "right tunnel bolt", 2100, 170, 380),
            _hole("h5", "gearbox crossmember", 1700, 60, 380, holds="gearbox", thread="M10"),
        ),
    )


@lru_cache
def twin_x() -> Design:
    """A twin-bank cat-back with an X: flex, catalyst and pipe a bank, X, muffler and tip a side."""
    od = 63.5
    design = Design(
        survey=coupe_survey(),
        settings=_together(
            95.25,
            cylinders=8,
            firing="each bank uneven",
            litres=5.4,
            power_kw=285.0,
            rated_rpm=6200.0,
            cruise_rpm=2250.0,
            gearbox=_gears(3.45),
        ),
    )
    design, cross = _set(
        design, "crossover", "X-pipe", (1830, 0, 230), od=od, bend=45.0, off=18.0, leg=40.0, mass_kg=2.4
    )
    for side, y in (("left", -1.0), ("right", 1.0)):
        band = "v-band" if side == "left" else "v-band-f"
        design, start = _set(design, band, f"{side} bank V-band", (960, 262 * y, 250), od=od, mass_kg=0.5)
        design, bank = joined(design, f"{start}.out", f"{cross}.in-{side}", _thin(od), f"{side} bank")
        design = _carry(design, bank, "flex", f"{side} flex", 40.0, 1.1, od=od)
        design = _carry(design, bank, "cat", f"{side} cat", 60.0, 2.9, od=od, long=150.0, spigot=30.0)
        design = _closed(design, bank)
        design, can = _set(
            design, "muffler", f"{side} muffler", (3560, 470 * y, 290), od=od, wide=200.0, long=400.0, mass_kg=4.9
        )
        design, _tip = _on(
            design, "tip-rolled", f"{side} tip", f"{can}.out", od=od, tip_od=88.9, long=270.0, mass_kg=0.8
        )
        design, rear = joined(design, f"{cross}.out-{side}", f"{can}.in", _thin(od), f"{side} rear")
        design = _closed(design, rear)
        design = set_joint(design, rear, "start", "slip", 45.0)
        piece = next(p for p in _run(design, bank).pieces if isinstance(p, Straight))
        design = add_boss(
            design,
            bank,
            piece.id,
            20.0,
            60.0 * y,
            name=f"{side} front sensor",
            watches="ahead of the cat",
            stands_mm=60.0,
        )
    return _with_use(design, cats=("left cat", "right cat"))


def _with_use(design: Design, cats: tuple[str, ...]) -> Design:
    parts = {p.name: p.id for p in design.parts}
    kept = tuple(
        EmissionPart(id=f"e{i + 1}", what="catalyst", name=name, part=parts[name], noted="seen at intake")
        for i, name in enumerate(cats)
    )
    return design.replace(use=Use(emissions=kept))


def truck_survey() -> Survey:
    """A lowered pickup on a ladder frame: little height, room across under the bed."""
    return Survey(
        things=(
            block("gearbox", "gearbox", (500, -150, 220), (1300, 150, 500), moves_with="engine"),
            bar("propshaft", "propshaft", (1300, 0, 350), (3300, 0, 330), 38, moves_with="driveline"),
            block("rail-l", "left rail", (300, -440, 300), (4700, -370, 420)),
            block("rail-r", "right rail", (300, 370, 300), (4700, 440, 420)),
            block("member", "gearbox crossmember", (1150, -370, 330), (1230, 370, 390)),
            bar("axle", "rear axle", (3350, -700, 290), (3350, 700, 290), 50, moves_with="rear-axle"),
            bar("tyre-l", "left rear tyre", (3350, -840, 330), (3350, -660, 330), 340),
            bar("tyre-r", "right rear tyre", (3350, 660, 330), (3350, 840, 330), 340),
            block("bed", "bed floor", (1500, -800, 470), (4700, 800, 500)),
        ),
        groups=(
            axle_travel(60, 50),
            Group(
                id="engine",
                name="engine",
                motion=Rock(about=(Length(200), Length(0), Length(430)), axis=(1, 0, 0), deg=1.5),
            ),
            Group(id="driveline", name="driveline", states=axle_travel(8, 8).states),
        ),
        low_line=LowLine(d=Length(95)),
        lowered_line=LowLine(d=Length(60)),
        rails=Rails(left_y_mm=Length(-370), right_y_mm=Length(370)),
        hang_points=(
            _hole("h1", "left rail, ahead", 1900, -340, 320),
            _hole("h2", "left rail, behind", 2150, -340, 300),
            _hole("h3", "right rail, ahead", 1900, 340, 330),
            _hole("h4", "right rail, behind", 2600, 340, 340),
            _hole("h5", "bed member, left", 2600, -250, 430),
            _hole("h6", "bed member, right", 2150, 280, 430),
        ),
    )


@lru_cache
def low_truck() -> Design:
    """Header-back on a lowered truck: mufflers across under the bed, each bank out on the other side."""
    od = 63.5
    design = Design(
        survey=truck_survey(),
        settings=_together(
            95.25,
            63.5,
            cylinders=8,
            firing="each bank uneven",
            litres=5.7,
            rated_rpm=5200.0,
            cruise_rpm=2100.0,
            gearbox=_gears(3.7),
        ),
    )
    banks = (("left", -1.0, (2150.0, -150.0, 160.0), 80.0), ("right", 1.0, (2600.0, -60.0, 238.0), 64.0))
    for side, y, (back, inlet, z), high in banks:
        design, start = _set(design, "flange-3", f"{side} bank flange", (1000, 232 * y, z), od=od, mass_kg=0.7)
        design, can = _set(
            design,
            "muffler",
            f"muffler of the {side} bank",
            (back, inlet, z),
            (0, -y, 0),
            od=od,
            long=240.0,
            wide=200.0,
            high=high,
            corner=32.0,
            spigot=30.0,
            mass_kg=4.2,
        )
        design, bank = joined(design, f"{start}.out", f"{can}.in", _thin(od, "409"), f"{side} bank")
        design = _carry(design, bank, "flex", f"{side} flex", 60.0, 1.1, od=od)
        design = _closed(design, bank)
        design, tip = _set(
            design,
            "tip-slash",
            f"{'right' if y < 0 else 'left'} side exit",
            (back, -640.0 * y, z),
            (0.26, -y, -0.05),
            od=od,
            tip_od=76.2,
            long=90.0,
            mass_kg=0.5,
        )
        design, out = joined(design, f"{can}.out", f"{tip}.in", _thin(od, "409"), f"{side} bank out")
        design = _closed(design, out)
        design = set_joint(design, bank, "start", "flange")
        design = set_joint(design, out, "start", "clamp")
    use = Use(
        written="Shows and private ground only, with the exits open.",
        acknowledged_by="the owner",
        acknowledged_on="at intake",
        class_rules=("silencer stays",),
        emissions=(
            EmissionPart(
                id="e1", what="catalyst", name="catalysts", fate="found removed", noted="found empty at intake"
            ),
        ),
    )
    return design.replace(use=use)


def saloon_rear() -> Survey:
    """The rear of a saloon with two cut-outs that are not quite the same."""
    return Survey(
        things=(
            bar("shafts", "drive shafts", (3000, -620, 400), (3000, 620, 400), 30, moves_with="rear-axle"),
            block(
                "tank", "fuel tank", (2350, -420, 400), (2850, -60, 540), nature="heat-shy", heat_shy_what="fuel tank"
            ),
            block("spare", "spare well", (3380, -230, 340), (3900, 230, 620)),
            block("valance", "valance", (4180, -260, 230), (4240, 260, 420), nature="soft"),
            roof("floor", "boot floor", 560),
        ),
        groups=(axle_travel(60, 60),),
        windows=(
            _cut_out("left cut-out", (4215, -440, 300), 268, 138),
            _cut_out("right cut-out", (4215, 446, 303), 254, 132),
        ),
        low_line=LowLine(d=Length(140)),
        rails=Rails(left_y_mm=Length(-430), right_y_mm=Length(430)),
        hang_points=(
            HangPoint(id="h1", name="left muffler rubber", point=(Length(3640), Length(-430), Length(450))),
            HangPoint(id="h2", name="right muffler rubber", point=(Length(3640), Length(430), Length(450))),
            _hole("h3", "left of the spare well", 3820, -300, 440),
            _hole("h4", "right of the spare well", 3820, 300, 440),
        ),
    )


@lru_cache
def quad_rear() -> Design:
    """A rear section with four tips: a split, a muffler a side, twin tips in cut-outs that differ a little."""
    od = 57.15
    design = Design(
        survey=saloon_rear(),
        settings=_together(85.7, cylinders=6, litres=3.0, power_kw=190.0, cruise_rpm=2200.0).replace(
            angles_deg=(15.0, 30.0, 45.0, 60.0, 90.0)
        ),
    )
    design, start = _set(design, "v-band", "mid-pipe V-band", (2180, 130, 235), od=63.5, ring=90.0, mass_kg=0.5)
    design, split = _on(design, "split", "split", f"{start}.out", od=od, deg=40.0, od_out=63.5, long=150.0, mass_kg=1.0)
    for side, y, z in (("left", -440.0, 300.0), ("right", 446.0, 303.0)):
        design, can = _set(
            design, "muffler", f"{side} muffler", (3480, y, z), od=od, long=330.0, wide=190.0, high=120.0, mass_kg=4.0
        )
        design, _tips = _on(
            design,
            "tip-twin",
            f"{side} twin tip",
            f"{can}.out",
            od=od,
            tip_od=88.9,
            apart=112.0,
            long=340.0,
            mass_kg=1.4,
        )
        design, pipe = joined(design, f"{split}.out-{side}", f"{can}.in", _thin(od), f"{side} pipe")
        design = _closed(design, pipe)
        design = set_joint(design, pipe, "start", "slip", 40.0)
        if side == "right":
            left_off = tuple(p.id for p in design.parts if p.name in ("left twin tip",))
            design = design.replace(
                configurations=(
                    Configuration(id="c1", name="four tips"),
                    Configuration(id="c2", name="noise test: left side shut off", without=left_off),
                )
            )
    return design


def bay_survey() -> Survey:
    """A crowded bay round a turbine: engine and box rock together, steering and hoses near."""
    return Survey(
        things=(
            block("engine", "engine block", (-260, -240, 300), (150, 210, 760), moves_with="engine"),
            block("gearbox", "gearbox", (150, -60, 250), (430, 230, 520), moves_with="engine"),
            bar("steering", "steering shaft", (240, -330, 420), (520, -420, 760), 16),
            block("subframe", "subframe", (330, -420, 150), (450, 420, 190)),
            block("tunnel-left", "tunnel side left", (700, -190, 200), (1500, -150, 430)),
            block("tunnel-right", "tunnel side right", (700, 150, 200), (1500, 190, 430)),
            bar(
                "hose",
                "heater hose",
                (250, 40, 660),
                (520, -60, 620),
                16,
                nature="heat-shy",
                heat_shy_what="rubber boot",
            ),
            block("scuttle", "scuttle", (560, -500, 470), (620, 500, 900)),
            roof("floor", "floor", 900),
        ),
        groups=(
            Group(
                id="engine",
                name="engine",
                motion=Rock(about=(Length(50), Length(0), Length(450)), axis=(0, 1, 0), deg=2.0),
            ),
        ),
        low_line=LowLine(d=Length(140)),
        hang_points=(_hole("h1", "tunnel side bolt", 1040, 110, 390),),
    )


@lru_cache
def pie_downpipe() -> Design:
    """A downpipe of slices out of a crowded bay, with a wastegate branch brought back into it."""
    od = 76.2
    settings = _together(114.3, 76.2, cylinders=4, litres=2.0, power_kw=210.0, aspiration="turbo", full_c=740.0)
    design = Design(survey=bay_survey(), settings=settings)
    design, start = _set(
        design, "flange-turbine", "turbine flange", (215, -150, 640), (0.95, -0.1, -0.3), od=od, mass_kg=0.9
    )
    design, end = _set(design, "flange-3", "tunnel flange", (1150, 0, 275), od=od, mass_kg=0.8)
    design, pipe = joined(design, f"{start}.out", f"{end}.in", _thin(od), "downpipe")
    slices = SegmentedBend(id="p1", slices=7, turn_each_deg=9.0, clr_mm=Length(85.0), roll_deg=180.0)
    lead = Straight(id="p0", length_mm=Length(20.0))
    run = _run(design, pipe).replace(pieces=(lead, slices))
    design = _carry(_with_run(design, run), pipe, "flex", "flex", 120.0, 1.4, od=od, long=80.0, body=98.0, spigot=30.0)
    design = _closed(design, pipe)
    run = _run(design, pipe)
    joints = (Joint(after="start", kind="flange"), Joint(after=run.pieces[-1].id, kind="flange"))
    design = _with_run(design, run.replace(joints=joints))
    design = add_boss(design, pipe, "p3", 80.0, 315.0, name="wideband", watches="wideband", stands_mm=70.0)
    design, branch = add_branch(design, pipe, "p3", 34.0, 270.0, 45.0, 38.1, name="wastegate branch")
    stub = (Straight(id="w1", length_mm=Length(60.0)),)
    return _with_run(design, _run(design, branch).replace(pieces=stub))
