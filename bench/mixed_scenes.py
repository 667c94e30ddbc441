"""Random scenes of every kind of piece among every kind of thing beside a sampled oracle."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator

import numpy as np
from tests.outside import mixed

from widebend.core.geometry import as_kept, indexed
from widebend.core.hardware import shelf
from widebend.core.records import Design, Part, Placed, Rules, Run, Settings, Survey, Tube
from widebend.core.review import review

SCENES = 2000


def compared(rng: np.random.Generator) -> Iterator[tuple[str, float, float]]:
    """One scene: for every thing near enough, what it is, our least gap and the sampled one [mm]."""
    made = mixed.scene(rng)
    mesh = indexed(as_kept(np.asarray(made.mesh.triangles)))
    survey = Survey.model_validate(_with_hash(made.survey, mesh.sha256)).with_meshes({mesh.sha256: mesh})
    flange = shelf.start_flange(2 * mixed.RADIUS).replace(bodies=())
    start = Part(id="s", item=flange, placed=Placed(point=(0, 0, 0), axis=(1, 0, 0), reference=(0, 0, 1)))
    tube = Tube(od_mm=2 * mixed.RADIUS, wall_mm=1.5)
    run = Run.model_validate({"id": "r", "start": "s.out", "tube": tube, "pieces": made.pieces})
    still = Settings(rules=Rules(hanger_swing_mm=0.0, hot_rise_k=0.0))
    found = review(Design(survey=survey, parts=(start,), runs=(run,), settings=still))
    for thing in survey.things:
        ours = min((g.gap_mm for g in found.gaps if g.obstacle.thing.id == thing.id), default=np.inf)
        # a small thing may lie wholly inside the pipe: no point of the skin is near it then, the middle is
        theirs = min(mixed.deepest(made, thing.id, part) for part in (made.skin, made.line))
        if theirs < 100.0:
            yield thing.shape.type, float(ours), theirs


def _with_hash(survey: dict, name: str) -> dict:
    things = [
        t | {"shape": t["shape"] | {"sha256": name}} if t["shape"]["type"] == "mesh" else t for t in survey["things"]
    ]
    return survey | {"things": things}


def bench_mixed() -> None:
    """2,000 scenes of every kind of piece, shape and movement beside sampling: what is too large, too small, unsaid."""
    rng, pairs, large, small, unsaid = np.random.default_rng(1), 0, 0.0, 0.0, 0
    kinds: Counter[str] = Counter()
    for _ in range(SCENES):
        for kind, got, want in compared(rng):
            pairs += 1
            kinds[kind] += 1
            if want > 0:
                large, small = max(large, got - want), max(small, want - got)
            elif got > want + 0.5:
                unsaid += 1
    print(f"{SCENES} scenes, {pairs} things near a pipe: " + ", ".join(f"{n} {k}" for k, n in sorted(kinds.items())))
    print(
        f"gap too large by at most {large:.4f} mm, too small by at most {small:.4f} mm (the skin is sampled "
        f"every {mixed.STEP} mm), clashes not said or said less deep than a sample: {unsaid}"
    )
