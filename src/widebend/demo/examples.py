"""Invented vehicles and jobs. Geometrically real: the pieces meet, and what the review finds is true."""

from __future__ import annotations

from functools import lru_cache

from ..core.hardware import can, start_flange, tip
from ..core.records import (
    Bend,
    Box,
    Capsule,
    Design,
    Engine,
    Gearbox,
    Group,
    GroupState,
    HalfSpace,
    HangPoint,
    InLine,
    Item,
    Joint,
    LowLine,
    MarkPoint,
    OldPart,
    Part,
    Piece,
    Placed,
    Rails,
    Run,
    Settings,
    Straight,
    Survey,
    Thing,
    Tube,
)
from ..core.routing import propose, taken
from ..core.units import Length

OD, WALL, CLR = 63.5, 1.5, 95.25


def _p(x: float, y: float, z: float) -> tuple[Length, Length, Length]:
    return Length(x), Length(y), Length(z)


def block(
    thing_id: str, name: str, low: tuple[float, float, float], high: tuple[float, float, float], **more: object
) -> Thing:
    """A box thing from its front lower left corner to its rear upper right one."""
    centre = [(a + b) / 2 for a, b in zip(low, high, strict=True)]
    size = [b - a for a, b in zip(low, high, strict=True)]
    return Thing(id=thing_id, name=name, shape=Box(center=_p(*centre), size=_p(*size)), **more)  # type: ignore[arg-type]


def bar(
    thing_id: str,
    name: str,
    a: tuple[float, float, float],
    b: tuple[float, float, float],
    radius: float,
    **more: object,
) -> Thing:
    """A round-ended bar."""
    return Thing(id=thing_id, name=name, shape=Capsule(a=_p(*a), b=_p(*b), radius=Length(radius)), **more)  # type: ignore[arg-type]


def roof(thing_id: str, name: str, height: float, **more: object) -> Thing:
    """Everything above a height is solid."""
    return Thing(id=thing_id, name=name, shape=HalfSpace(n=(0.0, 0.0, -1.0), d=Length(-height)), **more)  # type: ignore[arg-type]


def axle_travel(droop: float, bump: float, group: str = "rear-axle") -> Group:
    """A live axle as a shift in height, from where it stands at ride."""
    states = (
        GroupState(name="droop", shift=_p(0, 0, -droop)),
        GroupState(name="ride"),
        GroupState(name="bump", shift=_p(0, 0, bump)),
    )
    return Group(id=group, name=group.replace("-", " "), states=states)


def estate_survey() -> Survey:
    """A rear-drive estate with a live axle, measured on a lift."""
    return Survey(
        things=(
            block("gearbox", "gearbox", (700, -150, 230), (1420, 108, 520), plus_minus_mm=Length(4)),
            bar("propshaft", "propshaft", (1420, 0, 390), (3110, 0, 350), 38, moves_with="driveline"),
            block("crossmember", "crossmember", (1900, -430, 305), (1990, 430, 400), plus_minus_mm=Length(3)),
            block(
                "tank", "fuel tank", (2300, -430, 290), (2900, -110, 560), nature="heat-shy", heat_shy_what="fuel tank"
            ),
            bar("axle", "rear axle", (3210, -640, 320), (3210, 640, 320), 45, moves_with="rear-axle"),
            bar("diff", "axle housing", (3170, 0, 330), (3260, 0, 330), 115, moves_with="rear-axle"),
            bar(
                "hose",
                "brake hose",
                (3050, 520, 420),
                (3060, 520, 560),
                9,
                nature="heat-shy",
                heat_shy_what="brake hose",
            ),
            block("spare", "spare well", (3640, -420, 300), (4200, 60, 640)),
            block("bumper", "bumper", (4400, -700, 370), (4470, 700, 560), nature="soft"),
            roof("floor", "floor", 640),
        ),
        groups=(
            axle_travel(110, 90),
            Group(
                id="driveline",
                name="driveline",
                states=(GroupState(name="droop", shift=_p(0, 0, -12)), GroupState(name="bump", shift=_p(0, 0, 12))),
            ),
        ),
        low_line=LowLine(d=Length(150)),
        rails=Rails(left_y_mm=Length(-430), right_y_mm=Length(430)),
        marks=(
            MarkPoint(
                id="m1",
                name="left seat bolt",
                point=_p(1450, -380, 330),
                plus_minus_mm=Length(2),
                how_measured="squared off the left rail",
            ),
            MarkPoint(
                id="m2",
                name="right seat bolt",
                point=_p(1450, 380, 330),
                plus_minus_mm=Length(2),
                how_measured="squared off the right rail",
            ),
            MarkPoint(
                id="m3",
                name="handbrake guide",
                point=_p(2620, 60, 410),
                plus_minus_mm=Length(3),
                how_measured="plumb and rule",
            ),
        ),
        hang_points=(
            HangPoint(
                id="h1",
                name="gearbox strap",
                point=_p(1330, 300, 330),
                kind="earth-strap point",
                plus_minus_mm=Length(4),
                how_measured="tapes to 3 marks",
            ),
            HangPoint(
                id="h2",
                name="right rear rubber",
                point=_p(3560, 420, 400),
                condition="one side cracked",
                plus_minus_mm=Length(5),
                how_measured="tapes to 3 marks",
            ),
            HangPoint(
                id="h3",
                name="tip rubber",
                point=_p(4330, 380, 390),
                plus_minus_mm=Length(5),
                how_measured="plumb and rule",
            ),
            HangPoint(
                id="h4",
                name="handbrake guide bolt",
                point=_p(2640, 130, 420),
                kind="spare bolt hole",
                thread="M8",
                plus_minus_mm=Length(4),
                how_measured="plumb and rule",
            ),
        ),
        old_parts=(OldPart(id="o1", name="old tip hanger", kind="hanger", condition="good"),),
    )


@lru_cache
def _weighed(item: Item, mass_kg: float) -> Item:
    return item.replace(mass_kg=mass_kg)


def cat_back() -> Design:
    """The almost finished cat-back: cat, resonator, over the axle to a muffler and tip; tight at full bump."""
    muffler = can("muffler", "muffler", OD, (420, 230, 120), spigot_mm=45, mass_kg=5.4)
    parts = (
        Part(
            id="start",
            name="start flange",
            item=_weighed(start_flange(OD), 0.6),
            placed=Placed(point=_p(1180, 190, 262), axis=(1.0, 0.0, -0.12)),
        ),
        Part(id="cat", name="cat", item=can("cat", "cat", OD, (260, 118, 118), spigot_mm=30, mass_kg=3.1)),
        Part(
            id="res",
            name="resonator",
            item=can("resonator", "resonator", OD, (350, 100, 100), spigot_mm=40, mass_kg=2.4),
        ),
        Part(id="muffler", name="muffler", item=muffler, placed=Placed(point=_p(3705, 300, 292), axis=(1.0, 0.0, 0.0))),
        Part(
            id="tip",
            name="tip",
            item=_weighed(tip(OD, 89, 200), 0.7),
            placed=Placed(point=_p(4215, 300, 292), axis=(1.0, 0.0, 0.0)),
        ),
    )
    pieces: tuple[Piece, ...] = (
        Straight(id="p1", length_mm=Length(70)),
        Bend(id="p2", angle_deg=6.8428, clr_mm=Length(CLR), roll_deg=0.0),
        Straight(id="p3", length_mm=Length(120)),
        InLine(id="p4", part="cat"),
        Straight(id="p5", length_mm=Length(260)),
        InLine(id="p6", part="res"),
        Straight(id="p7", length_mm=Length(180)),
        Bend(id="p8", angle_deg=30.0, clr_mm=Length(CLR), roll_deg=8.0),
        Straight(id="p9", length_mm=Length(405)),
        Bend(id="p10", angle_deg=30.0, clr_mm=Length(CLR), roll_deg=188.0),
        Straight(id="p11", length_mm=Length(150)),
    )
    run = Run(
        id="r1",
        name="cat-back",
        start="start.out",
        aim="muffler.in",
        tube=Tube(od_mm=Length(OD, '2 1/2"'), wall_mm=Length(WALL), material="304"),
        pieces=pieces,
        joints=(Joint(after="start", kind="flange"), Joint(after="p7", kind="v-band")),
    )
    settings = Settings(
        clr_mm=(Length(CLR), Length(OD)),
        shortest_straight_mm=Length(0),
        engine=Engine(
            cylinders=4,
            idle_rpm=900.0,
            litres=2.4,
            power_kw=150.0,
            aspiration="turbo",
            cruise_rpm=2300.0,
            gearbox=Gearbox(ratios=(3.5, 2.0, 1.35, 0.98, 0.72), final=3.3),
        ),
    )
    open_design = Design(survey=estate_survey(), parts=parts, runs=(run,), settings=settings)
    proposals = propose(open_design, "r1")
    two_bends = next(i for i, p in enumerate(proposals.found) if p.bends == 2)
    return taken(open_design, "r1", proposals, two_bends)


def hatch_survey() -> Survey:
    """A front-engine bay, tight round the turbine outlet: only measured so far."""
    return Survey(
        things=(
            block("engine", "engine block", (-260, -240, 300), (200, 210, 760), moves_with="engine"),
            bar("steering", "steering shaft", (180, -330, 420), (520, -420, 760), 16),
            block("subframe", "subframe", (120, -420, 190), (300, 420, 270)),
            block("tunnel-left", "tunnel side left", (560, -190, 200), (1500, -150, 430)),
            block("tunnel-right", "tunnel side right", (560, 150, 200), (1500, 190, 430)),
            bar(
                "hose",
                "coolant hose",
                (230, -80, 560),
                (420, -150, 520),
                18,
                nature="heat-shy",
                heat_shy_what="brake hose",
            ),
            roof("floor", "floor", 450),
        ),
        groups=(
            Group(
                id="engine",
                name="engine",
                states=(GroupState(name="at rest"), GroupState(name="rocked back", shift=_p(8, 0, 5))),
            ),
        ),
        low_line=LowLine(d=Length(140)),
    )


def first_survey() -> Survey:
    """The README's first job: floor, low line, crossmember and tank."""
    return Survey(
        things=(
            block("crossmember", "crossmember", (1900, -430, 320), (1990, 430, 400)),
            block(
                "tank", "fuel tank", (2250, -430, 280), (2900, -40, 430), nature="heat-shy", heat_shy_what="fuel tank"
            ),
            roof("floor", "floor", 430),
        ),
        low_line=LowLine(d=Length(150)),
        rails=Rails(left_y_mm=Length(-430), right_y_mm=Length(430)),
    )


def first_job() -> Design:
    """The README's first job with start and finish placed and no pipe yet."""
    tube = Tube(od_mm=Length(OD), wall_mm=Length(WALL), material="304")
    muffler = can("muffler", "muffler", OD, (380, 230, 110))
    parts = (
        Part(
            id="start",
            name="start flange",
            item=start_flange(OD),
            placed=Placed(point=_p(1300, 60, 260), axis=(1.0, 0.0, 0.0)),
        ),
        Part(id="muffler", name="muffler", item=muffler, placed=Placed(point=_p(2700, 260, 230), axis=(1.0, 0.0, 0.0))),
        Part(
            id="tip", name="tip", item=tip(OD, 76.2, 150), placed=Placed(point=_p(3180, 260, 230), axis=(1.0, 0.0, 0.0))
        ),
    )
    run = Run(id="r1", start="start.out", aim="muffler.in", tube=tube)
    return Design(survey=first_survey(), parts=parts, runs=(run,), settings=new_settings())


def new_settings() -> Settings:
    """Settings of a new job: 1.5 x OD bends, the usual angles, any angle allowed too, and between bends 40 mm of
    straight at least: less is not held or welded well (common practice, no source; 0 by choice).
    """
    return Settings(clr_mm=(Length(CLR),), shortest_straight_mm=Length(40.0))
