"""./widebend bench [NAME ...]: figures beside a reference; the names are those of BENCHES below."""

from __future__ import annotations

import sys
import time

import numpy as np

from bench.abuse import bench_abuse
from bench.big_books import bench_books
from bench.big_system import big_design
from bench.cut_chains import bench_cuts
from bench.edit_time import bench_edit
from bench.fitting import bench_fitting
from bench.gas import bench_gas
from bench.hangers import bench_hangers
from bench.kills import bench_kills
from bench.many_people import bench_people
from bench.mixed_scenes import bench_mixed
from bench.nests import bench_nests
from bench.odd_uploads import bench_bombs
from bench.photos import bench_photos
from bench.random_edits import bench_edits
from bench.routes import bench_random_routes, bench_routes
from bench.sign_ins import bench_sign_ins
from bench.timing import median_ms
from bench.travels import bench_travels
from bench.twin_system import twin_design
from bench.two_places import bench_two_places
from bench.underbody import bench_tapes, bench_underbody
from widebend.core.closing import BendOptions, close
from widebend.core.geometry import clearance
from widebend.core.laying import NO_RIGID, obstacles, system_of
from widebend.core.removal import way_out
from widebend.core.review import packed, review, sections
from widebend.core.routing import remedies
from widebend.core.space import pose_from_matrix
from widebend.core.space.chain import lay_frames
from widebend.demo.systems import twin_x


def bench_review() -> None:
    """A review of 40 pieces and 40 things beside the same tube-to-thing distances from a CAD kernel."""
    design = big_design()
    system, around = system_of(design), obstacles(design.survey, design.settings.rules)
    rows = packed(around).rows
    segs = system.tubes[0].rows
    pieces, things = len(design.runs[0].pieces), len(design.survey.things)
    print(f"design: {pieces} pieces, {things} things, {len(rows)} things in positions")
    whole = median_ms(lambda: review(design))
    far = np.full(len(rows), 1e6)
    ours = median_ms(lambda: clearance.all_gaps(segs, rows, far))
    print(f"review, findings without remedies    {whole:10.1f} ms")
    print(f"all distances, none culled           {ours:10.2f} ms   {len(segs)} x {len(rows)}")
    found = review(design)
    begun = time.perf_counter()
    remedies(design, found)
    print(f"remedies for the worst three         {(time.perf_counter() - begun) * 1000:10.1f} ms")
    _beside_cad(segs, rows, ours)


def _beside_cad(segs: np.ndarray, rows: np.ndarray, ours: float) -> None:
    try:
        from tests.outside import cad
    except BaseException as exc:  # pytest's skip is not an Exception
        print(f"no CAD kernel to compare with: {exc}")
        return
    rng = np.random.default_rng(1)
    chosen = rng.choice(len(segs) * len(rows), 120, replace=False)
    gaps, _ = clearance.all_gaps(segs, rows, np.full(len(rows), 1e6))
    worst, begun, spent = 0.0, time.perf_counter(), 0.0
    for k in chosen:
        i, j = divmod(int(k), len(rows))
        begun = time.perf_counter()
        theirs = cad.distance(segs[i], rows[j])
        spent += time.perf_counter() - begun
        # inner segments of a chain have no end disc of their own: compare where the nearest place is not an end
        if theirs > 1e-6 and not _at_an_end(segs[i], rows[j]):
            worst = max(worst, abs(theirs - gaps[j, i]))
    theirs_ms = spent / len(chosen) * len(segs) * len(rows) * 1000
    print(f"the same by the CAD kernel           {theirs_ms:10.0f} ms   from {len(chosen)} of them")
    print(f"ratio                                {theirs_ms / ours:10.0f} x    largest difference {worst:.4f} mm")


def _at_an_end(seg: np.ndarray, row: np.ndarray) -> bool:
    _, at = clearance.least_on(seg, row, 0.0, seg[1], 1e9)
    return bool(at < 0.01 * seg[1] or at > 0.99 * seg[1])


def bench_closing() -> None:
    """Closing 200 hidden chains of each bend count, beside laying one chain."""
    from tests.chains import hidden_chain, random_pose

    rng = np.random.default_rng(7)
    for n in range(4):
        spent, missed = [], 0
        for _ in range(200):
            start, steps = random_pose(rng), hidden_chain(rng, n, (95.25, 63.5))
            target = pose_from_matrix(lay_frames(start.matrix(), steps, NO_RIGID)[-1])
            begun = time.perf_counter()
            missed += not close(start, target, BendOptions((95.25, 63.5), most_bends=n))
            spent.append((time.perf_counter() - begun) * 1000)
        print(f"{n} bends: median {np.median(spent):7.1f} ms, worst {max(spent):7.1f} ms, not found {missed} of 200")


def bench_layout() -> None:
    """A twin system of 60 pieces among 60 things, moving, beside the bare distances of its pipe at rest."""
    design = twin_design()
    found = review(design)
    positions = sum(len(found.positions[m]) for m in set(found.moves.pieces.values()))
    pieces = sum(len(r.pieces) for r in found.system.runs)
    print(
        f"twin system: {pieces} pieces, {len(design.survey.things)} things in {len(found.obstacles)} positions, "
        f"the system itself in {positions}"
    )
    rows, around = found.system.tubes[0].rows, packed(found.obstacles)
    far = np.full(len(around.rows), 1e6)
    bare = 2 * median_ms(lambda: clearance.all_gaps(rows, around.rows, far))
    whole = median_ms(lambda: review(design))
    still = design.settings.rules.replace(hanger_swing_mm=0.0, hot_rise_k=0.0)
    at_rest = design.replace(settings=design.settings.replace(rules=still))
    print(f"review, everything that moves        {whole:10.1f} ms")
    print(f"review, no swing and cold            {median_ms(lambda: review(at_rest)):10.1f} ms")
    print(f"distances of both runs, none culled  {bare:10.1f} ms   at rest; the review is {whole / bare:.1f} times")
    work = twin_x()
    laid = review(work)
    for section in sections(work, laid.system):
        begun = time.perf_counter()
        way = way_out(laid.system, section, laid.obstacles)
        spent = (time.perf_counter() - begun) * 1000
        print(f"trying a section out                 {spent:10.1f} ms   {len(way.moves)} moves")


BENCHES = {
    "review": bench_review,
    "layout": bench_layout,
    "closing": bench_closing,
    "routes": bench_routes,
    "random": bench_random_routes,
    "underbody": bench_underbody,
    "tapes": bench_tapes,
    "mixed": bench_mixed,
    "travels": bench_travels,
    "sign-ins": bench_sign_ins,
    "two-places": bench_two_places,
    "cuts": bench_cuts,
    "edit": bench_edit,
    "edits": bench_edits,
    "nests": bench_nests,
    "hangers": bench_hangers,
    "books": bench_books,
    "people": bench_people,
    "kills": bench_kills,
    "abuse": bench_abuse,
    "bombs": bench_bombs,
    "photos": bench_photos,
    "gas": bench_gas,
    "fitting": bench_fitting,
}


def main() -> int:
    """Run the named benches, or all."""
    wanted = sys.argv[1:] or list(BENCHES)
    for name in wanted:
        if name not in BENCHES:
            print(f"there is no bench “{name}”: {', '.join(BENCHES)}")
            return 2
        print(f"--- {name}: {(BENCHES[name].__doc__ or '').splitlines()[0]}")
        BENCHES[name]()
    return 0


if __name__ == "__main__":
    sys.exit(main())
