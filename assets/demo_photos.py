"""Makes the demo's survey by photo: an invented van, tags stuck on it, photographed small by the simulated phone,
placed, and what became of it taken.

`python assets/demo_photos.py`, with `src` on the path; what it makes is shipped in `src/widebend/demo/photos`.
"""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np

from widebend.core.hardware import start_flange
from widebend.core.photos import Photo, solve
from widebend.core.records import (
    Bend,
    Cylinder,
    Design,
    Group,
    GroupState,
    HangPoint,
    MarkPoint,
    Part,
    Placed,
    Rails,
    Run,
    Settings,
    Straight,
    Survey,
    Thing,
    Tube,
)
from widebend.core.tagged import Tagged, long_tape, proposals, stick, view
from widebend.core.units import Length
from widebend.demo.examples import block, roof
from widebend.formats.tag_photos import read_tag_photo
from widebend.instruments.simulated_phone import Phone, shoot
from widebend.instruments.tag_finder import look
from widebend.store.tag_photos import TagKnown, known_data
from widebend.work.photos import asked_of

TO = Path(__file__).resolve().parent.parent / "src" / "widebend" / "demo" / "photos"
PHOTOS = 18
PHONE = Phone.of(24.0, 2400, 1800, noise=0.8, blur_px=0.5, quality=62)


def p(x: float, y: float, z: float) -> tuple[Length, Length, Length]:
    return Length(x), Length(y), Length(z)


def shaft(
    thing_id: str,
    name: str,
    a: tuple[float, float, float],
    b: tuple[float, float, float],
    radius: float,
    **more: object,
) -> Thing:
    return Thing(id=thing_id, name=name, shape=Cylinder(a=p(*a), b=p(*b), radius=Length(radius)), **more)  # type: ignore[arg-type]


def van() -> Design:
    """What is really there, which nobody but the phone knows."""
    survey = Survey(
        things=(
            block("gearbox", "gearbox", (620, -130, 255), (1210, 140, 500)),
            shaft("propshaft", "propshaft", (1260, 5, 380), (2860, 5, 340), 36.0, moves_with="driveline"),
            block("crossmember", "crossmember", (1680, -440, 300), (1780, 440, 380)),
            block(
                "tank", "fuel tank", (1960, -430, 280), (2580, -120, 470), nature="heat-shy", heat_shy_what="fuel tank"
            ),
            shaft("axle", "rear axle", (2960, -620, 330), (2960, 620, 330), 44.0, moves_with="rear-axle"),
            roof("floor", "floor", 600),
        ),
        groups=(
            Group(
                id="driveline",
                name="driveline",
                states=(GroupState(name="droop", shift=p(0, 0, -14)), GroupState(name="bump", shift=p(0, 0, 10))),
            ),
            Group(
                id="rear-axle",
                name="rear axle",
                states=(GroupState(name="droop", shift=p(0, 0, -120)), GroupState(name="bump", shift=p(0, 0, 80))),
            ),
        ),
        rails=Rails(
            left_y_mm=Length(-455),
            right_y_mm=Length(455),
            front_at_mm=Length(520),
            rear_at_mm=Length(2700),
            front_height_mm=Length(330),
            rear_height_mm=Length(345),
        ),
        hang_points=(
            HangPoint(id="h1", name="gearbox rubber", point=p(1240, 330, 340)),
            HangPoint(id="h2", name="middle rubber", point=p(2130, 300, 350)),
            HangPoint(id="h3", name="rear rubber", point=p(3260, 350, 370)),
        ),
        marks=(MarkPoint(id="m1", name="seat bolt", point=p(1430, 260, 335)),),
    )
    start = Part(
        id="start",
        name="downpipe flange",
        item=start_flange(60.3),
        placed=Placed(point=p(1010, 205, 290), axis=(1.0, 0.0, -0.05)),
    )
    pieces = (
        Straight(id="p1", length_mm=Length(420)),
        Bend(id="p2", angle_deg=18.0, clr_mm=Length(90), roll_deg=90.0),
        Straight(id="p3", length_mm=Length(380)),
        Bend(id="p4", angle_deg=24.0, clr_mm=Length(90), roll_deg=-82.0),
        Straight(id="p5", length_mm=Length(420)),
    )
    run = Run(
        id="old", name="old pipe", start="start.out", tube=Tube(od_mm=Length(60.3), wall_mm=Length(1.5)), pieces=pieces
    )
    return Design(survey=survey, parts=(start,), runs=(run,), settings=Settings(clr_mm=(Length(90.0),)))


def with_names(tagged: Tagged) -> Tagged:
    """The flange's disc belongs to the old pipe that hangs on it."""
    return Tagged(
        tagged.stuck, tagged.surfaces, {n: "old pipe" if 240 <= n < 270 else name for n, name in tagged.names.items()}
    )


def main() -> None:
    """Make the photos, what each saw, what is known beside them, and the survey."""
    TO.mkdir(exist_ok=True)
    for old in TO.glob("*"):
        old.unlink()
    there = van()
    tagged = with_names(stick(there, fitted=True))
    rows, photos = [], []
    for k in range(PHOTOS):
        turn, eye = view(tagged, k, PHOTOS, seed=7)
        photo = read_tag_photo(shoot(PHONE, turn, eye, tagged.stuck, tagged.surfaces, np.random.default_rng(k)))
        name = f"van-{k + 1:02d}.jpg"
        (TO / name).write_bytes(photo.jpeg)
        seen = look(photo.jpeg).seen
        photos.append(Photo(str(k), photo.width, photo.height, photo.focal_px, photo.lens, seen))
        rows.append(
            {
                "file": name,
                "width": photo.width,
                "height": photo.height,
                "focal_px": photo.focal_px,
                "lens": photo.lens,
                "seen": [[one.number, np.round(one.corners, 3).tolist()] for one in seen],
            }
        )
        print(name, len(photo.jpeg) // 1000, "kB", len(seen), "tags")
    known = said(tagged, photos)
    solved = solve(photos, asked_of(known))
    print(len(solved.tags), "tags placed;", solved.lacking, solved.disagree, solved.left_out)
    design = Design(survey=Survey(groups=there.survey.groups))
    for one in proposals(solved, known.names, design):
        print(one.words, f"± {one.plus_minus_mm:.1f}", "taken" if one.usual else "offered")
        design = one.put_in(design) if one.usual else design
    survey = design.survey.model_dump(mode="json")
    (TO / "van.json").write_text(
        json.dumps({"photos": rows, "known": known_data(known), "survey": survey}, separators=(",", ":")) + "\n"
    )


def said(tagged: Tagged, photos: list[Photo]) -> TagKnown:
    """A tape between the two tags farthest apart that were seen often, the bar, the rails' heights."""
    tape = long_tape(tagged, photos)
    assert tape is not None  # most tags are seen often
    tapes = ((tape.first, tape.second, tape.length_mm),)
    return TagKnown(100.0, tapes, {}, (330.0, 345.0), tagged.names)


if __name__ == "__main__":
    main()
