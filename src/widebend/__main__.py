"""The command line on a design file: check, close, route, cut, convert.

Exit 0: nothing touches and every run meets its aim. 1: something touches, or an end misses. 2: refused, with the
reason and the place in the file.
"""

from __future__ import annotations

import argparse
import json
import sys
from dataclasses import asdict, replace
from pathlib import Path

from .core.cutting import cut_list
from .core.editing import joined
from .core.errors import WideBendError
from .core.laying import lay_run
from .core.records import Design, Tube
from .core.review import Review, review
from .core.routing import WEIGHS, Proposal, Proposals, Wish, propose, seek, taken
from .core.units import Length, format_angle, format_length
from .core.wording import in_state, say
from .formats.design_json import read_design, write_design
from .formats.papers.cut_csv import write_cut_csv
from .formats.papers.cut_rows import rows
from .formats.papers.sheet_pdf import PAPERS, write_sheet

FINE, WRONG, REFUSED = 0, 1, 2


def main(arguments: list[str] | None = None) -> int:
    """Run one command; the exit code."""
    options = _parser().parse_args(arguments)
    try:
        design = _read(options.file)
        return int(options.run_command(design, options))
    except WideBendError as exc:
        print(f"{options.file}: {exc}", file=sys.stderr)
        return REFUSED
    except OSError as exc:
        print(f"{options.file}: {exc.strerror or exc}", file=sys.stderr)
        return REFUSED


def _read(name: str) -> Design:
    return read_design(sys.stdin.buffer.read() if name == "-" else Path(name).read_bytes())


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="widebend", description=__doc__.split("\n", maxsplit=1)[0])
    commands = parser.add_subparsers(required=True)

    def command(name: str, what: str, run: object) -> argparse.ArgumentParser:
        sub = commands.add_parser(name, help=what, description=what)
        sub.add_argument("file", metavar="FILE", help="a design in JSON, or - for standard input")
        sub.add_argument("--unit", choices=["mm", "in", "in16", "in32"], default="mm", help="unit of the words printed")
        sub.set_defaults(run_command=run)
        return sub

    check = command("check", "print the findings of a design, worst first", check_design)
    check.add_argument("--json", action="store_true", help="findings as JSON")
    close = command("close", "close a run onto its aim and print the answers", close_design)
    close.add_argument("--run", help="the run's id (default: the first)")
    close.add_argument("--keep", type=int, help="how many pieces stay (default: all)")
    close.add_argument("--take", type=int, metavar="N", help="write the design with answer N taken to standard output")
    close.add_argument("--json", action="store_true", help="answers as JSON")
    way = command("route", "find ways from one port to another past everything", route_design)
    way.add_argument("--from", dest="start", metavar="PORT", help="the outlet (default: the first run's start)")
    way.add_argument("--to", dest="aim", metavar="PORT", help="the inlet (default: the first run's aim)")
    way.add_argument("--alternatives", type=int, default=3, metavar="N", help="how many ways at most")
    way.add_argument("--through", action="append", default=[], metavar="NAME", help="a window or mark, in order")
    way.add_argument("--longer", action="store_true", help="look longer: other sides, what would open a way")
    way.add_argument("--weigh", choices=sorted(WEIGHS), default="gentlest", help="what counts most")
    way.add_argument("--json", action="store_true", help="ways as JSON")
    cut = command("cut", "print the cut list of a run", cut_design)
    cut.add_argument("--run", help="the run's id (default: the first)")
    cut.add_argument("--json", action="store_true", help="the list as JSON")
    convert = command("convert", "write a design as csv (cut list), pdf (shop sheet) or json", convert_design)
    convert.add_argument("--to", choices=["csv", "pdf", "json"], required=True)
    convert.add_argument("--run", help="the run's id (default: the first)")
    convert.add_argument("--paper", choices=sorted(PAPERS), default="a4")
    convert.add_argument("--out", metavar="FILE", help="where to write (default: standard output)")
    return parser


def check_design(design: Design, options: argparse.Namespace) -> int:
    """Print findings."""
    found = review(design)
    if options.json:
        print(
            json.dumps(
                [{**asdict(f), "margin_mm": f.margin_mm, "text": say(f, design, options.unit)} for f in found.findings],
                indent=2,
                ensure_ascii=False,
            )
        )
    else:
        for finding in found.findings:
            print(say(finding, design, options.unit))
        if not found.findings:
            print("No finding.")
    return _exit_code(found)


def _exit_code(found: Review) -> int:
    return WRONG if any(f.spoils for f in found.findings) else FINE


def close_design(design: Design, options: argparse.Namespace) -> int:
    """Print or take the answers that close a run."""
    run_id = _run_id(design, options.run)
    proposals = propose(design, run_id, options.keep)
    if options.take is not None:
        closed = taken(design, run_id, proposals, options.take - 1)
        sys.stdout.buffer.write(write_design(closed))
        return _exit_code(review(closed))
    if options.json:
        print(json.dumps(_proposals_json(proposals), indent=2, ensure_ascii=False))
    else:
        for number, proposal in enumerate(proposals.found, 1):
            print(f"{number}. {proposal_words(proposal, options.unit)}")
        if not proposals.found:
            print(proposals.why_not)
            for change in proposals.changes:
                print(f"   works: {change.words}")
    return FINE if proposals.found else WRONG


def route_design(design: Design, options: argparse.Namespace) -> int:
    """Print ways from a port to a port; a run between them is made where there is none."""
    run = next(
        (r for r in design.runs if r.start == (options.start or r.start) and r.aim == (options.aim or r.aim)), None
    )
    if run is None:
        if not options.start or not options.aim:
            raise WideBendError("no run goes that way: name both --from and --to")
        tube = design.runs[0].tube if design.runs else Tube(od_mm=Length(63.5), wall_mm=Length(1.5))
        design, run_id = joined(design, options.start, options.aim, tube)
    else:
        run_id = run.id
    ids = {w.name: w.id for w in design.survey.windows} | {m.name: m.id for m in design.survey.marks}
    through = tuple(ids.get(name, name) for name in options.through)
    found = seek(design, run_id, Wish(0, through=through, weigh=options.weigh, thorough=options.longer))
    shown = replace(found, found=found.found[: max(1, options.alternatives)])
    if options.json:
        print(json.dumps(_proposals_json(shown), indent=2, ensure_ascii=False))
    else:
        if shown.until is not None:
            print(f"pieces {shown.kept + 1} to {shown.until}, up to what is locked or a part")
        for number, proposal in enumerate(shown.found, 1):
            print(f"{number}. {proposal_words(proposal, options.unit)}; {proposal.goes}")
        for words in [shown.why_not, *shown.opens] if not shown.found else []:
            print(words)
    return FINE if shown.found else WRONG


def proposal_words(proposal: Proposal, unit: str = "mm") -> str:
    """One answer in a line: bends, angles, length, worst margin."""
    angles = " ".join(format_angle(a) for a in proposal.answer.angles_deg)
    kind = f"{proposal.bends} bend{'s' if proposal.bends != 1 else ''} {angles}".strip()
    margin = format_length(proposal.worst_margin_mm, unit)
    near = f", margin {margin} to the {proposal.worst_thing}" if proposal.worst_thing else ", nothing near"
    return f"{kind}, {format_length(proposal.answer.length_mm, unit, 0)} of pipe{near}{in_state(proposal.worst_state)}"


def _proposals_json(proposals: Proposals) -> dict[str, object]:
    return {
        "kept": proposals.kept,
        "why_not": proposals.why_not,
        "changes": [c.words for c in proposals.changes],
        "opens": list(proposals.opens),
        "answers": [
            {
                "bends": p.bends,
                "goes": p.goes,
                "angles_deg": p.answer.angles_deg.tolist(),
                "angles_of_the_set": p.answer.from_set,
                "joints": p.made.joints if p.made else None,
                "weld_mm": p.made.weld_mm if p.made else None,
                "straight_mm": p.straight_mm,
                "mass_kg": p.mass_kg,
                "flow_as_straight_mm": p.loss_mm,
                "length_mm": p.answer.length_mm,
                "worst_margin_mm": p.worst_margin_mm,
                "worst_thing": p.worst_thing,
                "keeps_gaps": p.keeps_gaps,
                "pieces": [piece.model_dump(mode="json", exclude_none=True) for piece in p.pieces],
            }
            for p in proposals.found
        ],
    }


def _run_id(design: Design, wanted: str | None) -> str:
    if not design.runs:
        raise WideBendError("the design has no run")
    if wanted and design.run(wanted) is None:
        raise WideBendError(f"there is no run “{wanted}”: it has {', '.join(r.id for r in design.runs)}")
    return wanted or design.runs[0].id


def cut_design(design: Design, options: argparse.Namespace) -> int:
    """Print a run's cut list."""
    run = design.run(_run_id(design, options.run))
    laid = lay_run(design, run) if run else None
    if laid is None:
        raise WideBendError("the run has no start in the vehicle yet")
    cuts = cut_list(design, laid)
    if options.json:
        print(json.dumps([asdict(r) for r in rows(design, cuts, options.unit)], indent=2, ensure_ascii=False))
    else:
        for row in rows(design, cuts, options.unit):
            marks = f", heel {row.heel}, throat {row.throat}" if row.heel else ""
            roll = f", {row.round_the_tube} round the tube" if row.round_the_tube else ""
            print(f"{row.number:3d}  {row.what}  {row.source}{marks}{roll}  {row.note}".rstrip())
        print(
            f"{format_length(cuts.tube_mm, options.unit, 0)} of tube, {cuts.joints} joints, "
            f"{format_length(cuts.weld_mm, options.unit, 0)} of weld, {cuts.tube_mass_kg:.2f} kg"
        )
    return _exit_code(review(design))


def convert_design(design: Design, options: argparse.Namespace) -> int:
    """Write a design in another format."""
    found = review(design)
    if options.to == "json":
        data = write_design(design)
    else:
        run_id = _run_id(design, options.run)
        laid = next((r for r in found.system.runs if r.run.id == run_id), None)
        if laid is None:
            raise WideBendError("the run has no start in the vehicle yet")
        cuts = cut_list(design, laid)
        if options.to == "csv":
            data = write_cut_csv(design, cuts).encode()
        else:
            title = design.name or "Shop sheet"
            data = write_sheet(title, [], design, found, cuts, run_id=run_id, paper=options.paper, unit=options.unit)
    if options.out:
        Path(options.out).write_bytes(data)
    else:
        sys.stdout.buffer.write(data)
    return _exit_code(found)


if __name__ == "__main__":
    sys.exit(main())
