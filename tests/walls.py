"""An invented scene: two walls right across, a round hole in one, a slot on either side in the other."""

from widebend.core.records import Box, Design, HalfSpace, Survey, Thing, Window
from widebend.core.space import oval, rectangle
from widebend.core.units import Length
from widebend.demo.examples import first_job


def _wall(key: str, x: float, thick: float) -> Thing:
    return Thing(
        id=key,
        name=key,
        shape=Box(center=(Length(x), Length(0), Length(295)), size=(Length(thick), Length(860), Length(270))),
    )


def _window(key: str, at: tuple[float, float, float], outline: tuple, thick: float, wall: str) -> Window:
    x, y, z = (Length(v) for v in at)
    return Window(
        id=key,
        name=key.replace("-", " "),
        center=(x, y, z),
        axis=(1.0, 0.0, 0.0),
        reference=(0.0, 0.0, 1.0),
        outline=outline,
        thickness_mm=Length(thick),
        through=wall,
    )


def walls() -> Design:
    """From (1300, 60, 260) to the muffler at (2700, 260, 230), under a floor."""
    floor = Thing(id="floor", name="floor", shape=HalfSpace(n=(0.0, 0.0, -1.0), d=Length(-430)))
    base = first_job()
    survey = Survey(
        things=(_wall("crossmember", 1945, 90), _wall("brace", 2355, 10), floor),
        windows=(
            _window("round-hole", (1945, -60, 290), oval(130, 130, 20), 90, "crossmember"),
            _window("left-slot", (2355, -200, 300), rectangle(160, 130), 10, "brace"),
            _window("right-slot", (2355, 180, 300), rectangle(160, 130), 10, "brace"),
        ),
        low_line=base.survey.low_line,
    )
    return base.replace(survey=survey)
