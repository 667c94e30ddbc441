"""The audit is only added to."""

from __future__ import annotations

import psycopg
import pytest

from widebend.store.database import Database


@pytest.mark.parametrize("statement", ["UPDATE audit SET who = 'nobody'", "DELETE FROM audit", "TRUNCATE audit"])
def test_no_statement_alters_what_the_audit_says(database: Database, statement: str) -> None:
    with database.transaction() as connection:
        connection.execute("INSERT INTO audit (who, what) VALUES ('ann', 'set the price of a job')")
    with pytest.raises(psycopg.errors.RaiseException, match="never altered"), database.transaction() as connection:
        connection.execute(statement.encode())
    with database.transaction() as connection:
        assert connection.execute("SELECT 1 FROM audit WHERE who = 'ann'").fetchone()
