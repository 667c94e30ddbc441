"""Findings and pieces in the trade's words. The only place where a finding becomes text."""

from __future__ import annotations

from collections.abc import Callable

from ..cutting import falls_on
from ..laying import LOW_LINES, LaidPiece
from ..records import Bend, Design, InLine, Mitre, Piece, SegmentedBend, Straight
from ..review import Finding
from ..space import needs_words, toward_words
from ..units import format_angle, format_clock, format_length

SAID_AS_IS = ("at ", "rocked ", "swung ", "between ")  # positions whose name says how


def piece_words(piece: Piece, unit: str = "mm") -> str:
    """A piece in a word or two: "180 mm straight", "26° bend"."""
    if isinstance(piece, Straight):
        return f"{format_length(piece.length_mm, unit)} straight"
    if isinstance(piece, Bend):
        return f"{format_angle(piece.angle_deg)} bend"
    if isinstance(piece, Mitre):
        return f"{format_angle(piece.turn_deg)} mitre"
    if isinstance(piece, SegmentedBend):
        return f"{piece.slices} slices of {format_angle(piece.turn_each_deg)}"
    return piece.part


def clock_words(piece: LaidPiece) -> str:
    """The clock of a turning piece, with words where a clock face alone would mislead; empty for a straight."""
    if piece.clock is None:
        return ""
    roll = getattr(piece.piece, "roll_deg", 0.0)
    side = toward_words(piece.inlet.side(roll))
    flow = piece.inlet.flow
    if abs(flow[2]) > 0.985:
        return side
    return f"{format_clock(piece.clock)} ({side})" if needs_words(flow) else format_clock(piece.clock)


def where(finding: Finding, design: Design) -> str:
    """Who a finding is about: "Piece 14", "The muffler", "The run"."""
    if finding.part:
        part = design.part(finding.part)
        return f"The {part.name or part.item.kind}" if part else finding.part
    if finding.piece is not None:
        run = design.run(finding.run)
        piece = run.pieces[finding.piece] if run else None
        if isinstance(piece, InLine):
            part = design.part(piece.part)
            return f"The {part.name or part.item.kind}" if part else piece.part
        lead = f"{run.name or run.id}, piece" if run and len(design.runs) > 1 else "Piece"
        return f"{lead} {finding.piece + 1}"
    return "The run"


def _end(finding: Finding, design: Design) -> str:
    """Which end is meant, where there are several."""
    run = design.run(finding.run)
    return f"{run.name or run.id}: its end" if run and len(design.runs) > 1 else "The end"


def in_state(state: str) -> str:
    """Which position is meant, behind a thing's name; empty for none.

    >>> [in_state(state) for state in ("bump", "at rest", "rocked one way", "")]
    [' at bump', ' at rest', ' rocked one way', '']
    """
    if not state or state.startswith(SAID_AS_IS):
        return f" {state}" if state else ""
    return f" at {state}"


def _bolted(finding: Finding, design: Design) -> str:
    """How the first flange may meet what it is bolted to: that thing goes with the engine, as the flange does."""
    part = design.part(finding.part)
    thing = next((t for t in design.survey.things if t.id == finding.thing), None)
    if part is None or part.item.kind not in ("flange", "v-band") or part.moves not in ("worked out", "engine"):
        return ""
    if thing is None or thing.moves_with != "body":
        return ""
    starts = any(isinstance(r.start, str) and r.start.partition(".")[0] == part.id for r in design.runs)
    fed = any(r.aim is not None and r.aim.partition(".")[0] == part.id for r in design.runs)
    return f" Bolted to it? Say that the {thing.name} moves with the engine." if starts and not fed else ""


def say(finding: Finding, design: Design, unit: str = "mm") -> str:
    """A finding in plain words: what, where, how much, and for a first flange what may be meant."""
    said = _said(finding, design, unit)
    return said + _bolted(finding, design) if finding.code == "touches" else said


def _said(finding: Finding, design: Design, unit: str) -> str:
    who, gap = where(finding, design), finding.gap_mm or 0.0
    thing = f"the {finding.thing_name}" if not finding.thing_name.startswith("its ") else finding.thing_name
    when = in_state(finding.state)
    when += f", pipe {finding.position}" if finding.position else ""
    doubt = f" ± {format_length(finding.plus_minus_mm, unit, 0)}" if finding.plus_minus_mm else ""
    if finding.code == "touches" and finding.thing in LOW_LINES:
        return f"{who} hangs {format_length(-gap, unit)} below {thing}."
    if finding.code == "touches" and gap >= 0:
        return f"{who} may touch {thing}{when}: {format_length(gap, unit)} gap, measured{doubt}."
    sentences = {
        "touches": f"{who} touches {thing}{when}, {format_length(-gap, unit)} deep{doubt}.",
        "tight": f"{who} is {format_length(gap, unit)}{doubt} from {thing}{when}, "
        f"{format_length(finding.needed_mm or 0, unit)} wanted.",
        "own": f"{who} is {format_length(gap, unit)} from {thing}{when}, "
        f"{format_length(finding.needed_mm or 0, unit)} wanted.",
        "together": f"{who} is {format_length(gap, unit)} from {thing}; both go with the engine, so they may meet.",
        "inside": f"The run starts inside {thing}{when}: move the start, or correct the {finding.thing_name}.",
        "misses": f"{_end(finding, design)} misses its aim by {format_length(finding.miss_mm or 0, unit)} "
        f"and {format_angle(finding.miss_deg or 0)}.",
        "apart": f"{who} does not meet what is ahead of it: {format_length(finding.miss_mm or 0, unit)} apart.",
        "short": f"{who} is {format_length(gap, unit)} long; "
        f"{format_length(finding.needed_mm or 0, unit)} of straight is wanted between bends.",
        "radius": f"{who} has a radius of {_figure(finding, 0, unit)}, which this job does not list.",
        "open": f"{who}: its {_name(finding, 0).replace('-', ' ')} leads nowhere. Join a pipe to it, or a tip.",
        "no-start": "Nothing to start from: place the start on the Layout step.",
        "no-aim": "Nothing to aim for: place the finish on the Layout step.",
        "no-low-line": "No low line is set: nothing checks ground clearance.",
        "no-travel": f"No travel is entered for the {finding.thing_name}: the {_name(finding, 0)} is checked only as "
        "it stands. Enter how far it goes, down and up or each way.",
        "pending": f"The {finding.thing_name} is {_name(finding, 0)}: checked as "
        f"{'if it were there' if finding.checked else 'if it were away'}.",
        "no-mesh": f"The shape of {thing} is not here: its triangles were not sent along. It is not checked.",
        "shut": f"The {finding.thing_name} is checked without its window: {_name(finding, 0)}.",
    }
    if finding.code in sentences:
        return sentences[finding.code]
    return _rule_words(finding, who, thing, unit)


def _rule_words(finding: Finding, who: str, thing: str, unit: str) -> str:
    """Findings that come from a rule of the trade: what, and why it matters."""
    first, second = _name(finding, 0), _name(finding, 1)
    figure, wanted = (format_length(v or 0.0, unit, 0) for v in (finding.gap_mm, finding.needed_mm))
    emission = "On the road that is against the law in most places: check local rules." if finding.checked else ""
    sentences: dict[str, Callable[[], str]] = {
        "step": lambda: _step_words(finding, who, unit),
        "emissions": lambda: f"{first[:1].upper()}{first[1:]}: {second}. {emission}".rstrip(),
        "use-unsaid": lambda: (
            "An emissions part is not kept: the use in writing, and who has seen the caution, are "
            "wanted on the Layout step's sheet for it."
        ),
        "class": lambda: f"The class asks that {first}; {_class_words(*finding.names)}.",
        "no-flex": lambda: (
            "Nothing takes up the engine's rock: put a flex joint ahead of the first hanger. Where the vehicle's own "
            "pipe ahead of it has one, say of the part it starts from, on the Layout step, that it is hung behind that."
        ),
        "flex-late": lambda: f"{who} hangs ahead of the flex joint: the engine's rock works on that hanger.",
        "sensor-near": lambda: f"{who}: the {first} is {figure} behind the turbine, {wanted} wanted: it runs too hot.",
        "sensor-low": lambda: (
            f"{who}: the {first} looks {_level(finding.figures[0])}; at least {format_angle(finding.figures[1])} above "
            "level, so that water runs out."
        ),
        "boss-lowest": lambda: f"{who}: the {first} sits at the lowest place of its run, where water stands.",
        "sensor-room": lambda: f"{who}: the {first} has no room for plug and spanner: {thing} is within {wanted}.",
        "sensor-order": lambda: f"{who}: the {first} should sit {second}.",
        "branch": lambda: (
            f"{who} leaves at {format_angle(finding.figures[0])}; {format_angle(finding.figures[1])} to the flow or "
            "less is wanted, or the gas does not turn."
        ),
        "buried": lambda: (
            f"{who}: its joint can be reached from {finding.figures[0]:g} of {finding.figures[1]:g} sides only; "
            f"{thing} is in the "
            f"way of hand and torch."
        ),
        "tip-uneven": lambda: f"{who} is not even with the {finding.thing_name}: {_uneven(unit, *finding.figures)}.",
        "blows": lambda: f"{who} blows on {thing}, nearer than {wanted} behind it.",
        "ends-under": lambda: f"{who} ends under {thing}: gas gathers there and gets into the cabin.",
        "side-exit": lambda: (
            f"{who} comes out on the {first}: clear of tyre, sill and where people stand? "
            "Some places allow one side only."
        ),
        "muffler-near": lambda: f"{who} is {figure} from {thing}, {wanted} wanted round a hot can.",
        "no-weld": lambda: f"{who}: {first} and {second} do not weld to each other: a V-band, flange or clamp there.",
        "rusted": lambda: f"{who}: the {first} is rusted where it is welded: cut back to sound metal.",
        "strip-coat": lambda: (
            f"{who}: take the coating off the {first} before welding: its smoke is poisonous and it spoils the weld."
        ),
        "thick-thin": lambda: (
            f"{who}: {_figure(finding, 0, unit)} against {_figure(finding, 1, unit)}: put the heat into the {first}, "
            "the thick side."
        ),
        "trapped": lambda: (
            f"{who} and what is welded to it goes over {thing} and under the {first}: try to "
            "take it out, or put a joint between."
        ),
        "ring": lambda: f"{who} is a ring of {figure}: too short to hold and weld, {wanted} wanted.",
        "throat": lambda: (
            f"{who}: its slices are {figure} long at the throat, {wanted} wanted: a larger radius, or fewer slices."
        ),
        "boss-weld": lambda: f"{who}: {_sits(finding, unit)}.",
        "long-section": lambda: (
            f"{who} and what is welded to it is {figure} long in one, more than {wanted}: a joint would make it handy."
        ),
    }
    return sentences[finding.code]()


def say_making(finding: Finding, unit: str = "mm") -> str:
    """Return the faults of making a way that is not drawn yet."""
    has, wants = format_length(finding.gap_mm or 0.0, unit), format_length(finding.needed_mm or 0.0, unit)
    if finding.code == "ring":
        return f"a ring of {has}, {wants} to hold and weld"
    return f"slices {has} long at the throat, {wants} wanted" if finding.code == "throat" else _sits(finding, unit)


def _sits(finding: Finding, unit: str) -> str:
    """Describe the weld or bend that a boss or a branch falls on."""
    return falls_on(_name(finding, 0), _name(finding, 1), finding.figures, unit)


def _name(finding: Finding, k: int) -> str:
    return finding.names[k] if k < len(finding.names) else ""


def _figure(finding: Finding, k: int, unit: str) -> str:
    return format_length(finding.figures[k], unit) if k < len(finding.figures) else ""


def _class_words(rule: str, part: str = "", fate: str = "") -> str:
    """Describe the breach of a class's rule."""
    if part:
        return f"{part} is {fate}"
    return (
        "no muffler or resonator is in the system"
        if rule == "silencer stays"
        else ("no catalyst is entered as found on the vehicle")
    )


def _level(deg: float) -> str:
    return f"{abs(deg):.0f}° {'above' if deg >= 0 else 'below'} level"


def _uneven(unit: str, back: float, across: float, up: float) -> str:
    """In what the left tip differs from the right one's mirror image."""
    named = [("further back", "further forward", back), ("further out", "further in", across), ("higher", "lower", up)]
    said = [
        f"the left is {format_length(abs(v), unit, 0)} {more if v > 0 else less}"
        for more, less, v in named
        if abs(v) > 3.0
    ]
    return ", ".join(said)


def _step_words(finding: Finding, who: str, unit: str) -> str:
    own, other = _figure(finding, 0, unit), _figure(finding, 1, unit)
    wanted = "a reducer or an expander is wanted."
    if finding.piece is not None:
        return f"{who} is {own}, the one ahead of it {other}: {wanted}"
    return f"{who}: its {_name(finding, 0).replace('-', ' ')} is {own}, what meets it {other}: {wanted}"


# what a tile has room for; the sentence stands in the findings
TILE_WORDS = {
    "touches": "touches",
    "inside": "touches",
    "no-mesh": "unchecked",
    "misses": "misses",
    "apart": "apart",
    "tight": "tight",
    "own": "tight",
    "short": "short",
    "radius": "radius",
    "open": "open",
    "step": "step",
    "no-flex": "no flex",
    "flex-late": "flex",
    "sensor-near": "sensor",
    "sensor-low": "sensor",
    "boss-lowest": "boss",
    "sensor-room": "sensor",
    "sensor-order": "sensor",
    "branch": "branch",
    "buried": "no room",
    "tip-uneven": "tip",
    "blows": "blows",
    "ends-under": "tip",
    "muffler-near": "hot",
    "no-weld": "metals",
    "rusted": "rust",
    "trapped": "trapped",
    "long-section": "long",
    "ring": "ring",
    "throat": "slices",
    "boss-weld": "boss",
    "no-travel": "no travel",
}


def state_word(findings: list[Finding]) -> str:
    """The one or two words a tile carries: "touches", "tight", "short" or nothing."""
    return next((TILE_WORDS.get(f.code, "look") for f in findings if f.rank[0] < 4), "")
