"""What is handed over follows the design: no check for what it does not have, joints off from the rear."""

from __future__ import annotations

from widebend.core.editing import otherwise
from widebend.core.handover import checks_for, fitted
from widebend.core.laying import system_of
from widebend.core.records import Joint
from widebend.demo.examples import cat_back
from widebend.demo.hung import twin_hung
from widebend.demo.systems import twin_x


def test_what_a_job_does_not_have_is_not_asked() -> None:
    estate, twin = (dict(checks_for(d)) for d in (cat_back(), twin_hung(twin_x())))
    assert "rubbers" not in estate
    assert "rubbers" in twin
    assert "flex" in twin
    assert next(iter(twin)) == "tight"
    assert list(twin)[-1] == "road"


def test_what_was_fitted_is_the_design_s() -> None:
    design = cat_back()
    first = design.runs[0]
    joints = (*first.joints, Joint(after=first.pieces[8].id, kind="clamp"))
    design = design.replace(runs=(first.replace(joints=joints),))
    lines = list(fitted(design, system_of(design)))
    words = {line.what: line.words for line in lines}
    assert words[first.name or "r1"].startswith("63.5 mm x 1.5 mm 304")
    assert "45 to 60 N m" in words["band clamp"]
    assert words[first.name or "r1"].endswith(f"{sum(p.kind == 'bend' for p in first.pieces)} bends")
    bend = max((p for p in first.pieces if p.kind == "bend"), key=lambda p: p.angle_deg)
    made, _ = otherwise(design, first.id, bend.id)
    of_slices = next(iter(fitted(made, system_of(made)))).words
    assert f"and 1 bend of {next(p.slices for p in made.runs[0].pieces if p.kind == 'pie')} slices" in of_slices
    off = [line.words for line in lines if line.what.startswith("comes off")]
    places = [int(text.split(", ")[1].split(" ")[0]) for text in off]
    assert places == sorted(places, reverse=True)
    assert len(off) == sum(j.kind != "butt" for j in joints)
