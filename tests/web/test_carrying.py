"""A job out and in again, and lists that no spreadsheet computes."""

from __future__ import annotations

import io

from openpyxl import load_workbook

from .conftest import Visitor


def test_a_job_goes_out_and_comes_in_with_a_number_of_its_own(visitor: Visitor) -> None:
    sent = visitor.client.get("/jobs/104/bundle.zip").data
    assert b"Ivo Larkin" not in sent
    form = visitor.form("/take-in", "/take-in")
    token = {i["name"]: i["value"] for i in form.select("input[type=hidden]")}
    answer = visitor.client.post("/take-in", data={**token, "bundle": (io.BytesIO(sent), "job.zip")})
    assert answer.status_code == 303
    job = int(answer.location.split("/")[2])
    assert job > 104
    line = visitor.get(f"/jobs/{job}/hang").select_one(".work-line").get_text()
    assert "26 pieces" in line
    assert "4 hangers" in line
    refused = visitor.client.post("/take-in", data={**token, "bundle": (io.BytesIO(b"no"), "x.zip")})
    assert refused.status_code == 422
    assert b"this is no zip" in refused.data


def test_lists_are_harmless_in_a_spreadsheet(visitor: Visitor) -> None:
    visitor.post(
        "/jobs/new", "/jobs/new", vehicle_id="", customer="=HYPERLINK(1)", phone="", vehicle="@van", title="+tail"
    )
    text = visitor.client.get("/lists/jobs.csv").data.decode("utf-8-sig")
    assert "'=HYPERLINK(1)" in text
    assert "'+tail" in text
    book = load_workbook(io.BytesIO(visitor.client.get("/lists/customers.xlsx").data))
    cells = [cell for row in book.active.iter_rows() for cell in row]
    assert not [cell for cell in cells if cell.data_type == "f"]
    assert "Mara Quill" in {cell.value for cell in cells}
    assert visitor.client.get("/lists/secrets.csv").status_code == 404
