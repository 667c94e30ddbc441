"""People of the shop: passwords (argon2id), roles, where they are signed in, what each of them did."""

from __future__ import annotations

import hashlib
import os
import secrets
import threading
from collections.abc import Mapping
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from threading import BoundedSemaphore
from typing import Any, Literal, get_args

from argon2 import PasswordHasher
from argon2.exceptions import Argon2Error, InvalidHashError

from ..core.errors import EditError
from .database import Connection, queries

Role = Literal["owner", "fabricator", "front desk"]
ROLES: tuple[Role, ...] = get_args(Role)
LEAST_SCORE, MOST_WEIGHED = 3, 72  # of 0 to 4: safe from guesses over a network; as much as is weighed
LEAST_LETTERS, MOST_LETTERS = 12, 200  # OWASP ASVS 2.1.1
MOST_WRONG, LOCKED_MIN = 5, 15
NOBODY = "$argon2id$v=19$m=65536,t=3,p=4$lbR8vbBpIDtrjUUVT5n00g$KdWF1p0+0AFedXtEpewpKbnPHu24Aas+P52o9vQc0Uw"
WRONG = "wrong name or password, or too many tries: wait a quarter of an hour, or ask the owner for a new password"
MOST_TRIES = 30  # wrong ones from one address, whatever the names

# of a process: passwords looked at, at once (each takes 64 MiB), and people who wait for that. Whoever comes then is
# told to try again: those who wait hold threads that everybody's pages are answered by
_LOOKED_AT, _WAITING = BoundedSemaphore(1), BoundedSemaphore(6)
STEPS_BACK = 15  # of niceness: work that others' pages go before
BUSY = "many people are signing in just now: try again in a few seconds"
MOST_WHAT = 200  # letters of what was done
_hasher = PasswordHasher()  # the library's own defaults: RFC 9106's second recommendation


class BusyError(EditError):
    """More people sign in at once than passwords can be looked at."""


class WrongPasswordError(EditError):
    """The password that was given is not the right one: counted, so that it is not guessed without end."""


@dataclass(frozen=True)
class Person:
    """Somebody who is signed in."""

    id: int
    name: str
    role: Role
    must_change: bool


def _hash(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()


def one_time_password() -> str:
    """A password to be changed at the first sign-in: easy to read out."""
    letters = "abcdefghjkmnpqrstuvwxyz23456789"
    return "-".join("".join(secrets.choice(letters) for _ in range(4)) for _ in range(3))


def add(connection: Connection, name: str, role: str, password: str, *, must_change: bool = True) -> int:
    """Somebody new. Raises EditError for a name that is taken, a role there is none of, a password too short."""
    plain = " ".join(name.split())[:40]
    if not plain:
        raise EditError("what is their name?", "name")
    if role not in ROLES:
        raise EditError(f"one of {', '.join(ROLES)}", "role")
    _long_enough(password)
    made = queries.add_person(
        connection, name=plain, role=role, password_hash=_hasher.hash(password), must_change=must_change
    )
    if made is None:
        raise EditError(f"there is a {plain} already", "name")
    return int(made)


def _long_enough(password: str) -> None:
    if not LEAST_LETTERS <= len(password) <= MOST_LETTERS:
        raise EditError(f"a password of {LEAST_LETTERS} letters or more", "password")
    from zxcvbn import zxcvbn  # its lists of common passwords take a while to load

    if zxcvbn(password[:MOST_WEIGHED])["score"] < LEAST_SCORE:
        raise EditError("that is among the first to be guessed: three words of your own are better", "password")


@dataclass(frozen=True)
class Known:
    """A person known by name, before the password is checked: that takes long, and holds no connection."""

    row: Mapping[str, Any] | None

    def opens_to(self, password: str) -> bool:
        """Whether a password is the right one; as slow for a name there is none of."""
        return (
            _right(self.row["password_hash"] if self.row else NOBODY, password[:MOST_LETTERS]) and self.row is not None
        )


def known(connection: Connection, name: str, address: str) -> Known | None:
    """Return the person of a name; None after too many wrong passwords from an address, for it or for any."""
    if _tried_often(connection, name, address):
        return None
    row = queries.person_by_name(connection, name=_plain(name))
    return Known(dict(row) if row else None)


def let_in(connection: Connection, who: Known, name: str, address: str, *, opens: bool) -> Person | None:
    """Keep that somebody signed in, or tried to; who that is, or None."""
    if who.row is None or not opens:
        queries.note_sign_in_try(connection, name=_plain(name)[:80], address=address[:64])
        return None
    queries.forget_sign_in_tries(connection, name=who.row["name"])
    return Person(who.row["id"], who.row["name"], who.row["role"], who.row["must_change"])


def _plain(name: str) -> str:
    return " ".join(name.split())


def _tried_often(connection: Connection, name: str, address: str) -> bool:
    row = queries.sign_in_tries(connection, name=_plain(name), address=address[:64], minutes=LOCKED_MIN)
    return bool(row and (row["of_name"] >= MOST_WRONG or row["of_address"] >= MOST_TRIES))


def _right(known: str, password: str) -> bool:
    """Whether a password is the right one. Raises BusyError where too many wait to be told."""
    if not _WAITING.acquire(blocking=False):
        raise BusyError(BUSY)
    try:
        with _LOOKED_AT, ThreadPoolExecutor(1, initializer=_step_back) as behind:
            return behind.submit(_hasher.verify, known, password).result()
    except (Argon2Error, InvalidHashError):
        return False
    finally:
        _WAITING.release()


def _step_back() -> None:
    """Let everything else of this machine go before this thread and those that it makes."""
    os.setpriority(os.PRIO_PROCESS, threading.get_native_id(), STEPS_BACK)


def begin_session(connection: Connection, person_id: int, device: str, address: str) -> str:
    """Sign a device in; its token, which is kept nowhere else."""
    token = secrets.token_urlsafe(32)
    queries.add_session(
        connection, token_hash=_hash(token), person_id=person_id, device=device[:200], address=address[:64]
    )
    return token


def of_session(connection: Connection, token: str) -> Person | None:
    """Who a device is signed in as."""
    row = queries.session(connection, token_hash=_hash(token))
    if row is None:
        return None
    queries.session_seen(connection, token_hash=_hash(token))
    return Person(**row)


def end_session(connection: Connection, token: str) -> None:
    queries.end_session(connection, token_hash=_hash(token))


def sessions(connection: Connection, person_id: int, token: str) -> list[dict[str, Any]]:
    """Where somebody is signed in, by the start of each session's hash; `here` is the one with this token."""
    mine = _hash(token)
    return [
        {**row, "key": row["token_hash"][:16], "here": row["token_hash"] == mine}
        for row in queries.sessions_of(connection, person_id=person_id)
    ]


def end_session_of(connection: Connection, person_id: int, key: str) -> None:
    queries.end_session_of(connection, person_id=person_id, start=key)


def change_password(connection: Connection, person_id: int, old: str, new: str, token: str) -> None:
    """Another password for oneself; every other device is signed out. Raises EditError."""
    row = queries.person_by_id(connection, person_id=person_id)
    if row is None or not _right(row["password_hash"], old):
        raise WrongPasswordError("that is not the password until now", "old")
    _long_enough(new)
    if new == old:
        raise EditError("another one than until now", "password")
    queries.set_password(connection, person_id=person_id, password_hash=_hasher.hash(new), must_change=False)
    queries.end_sessions_of(connection, person_id=person_id, but=_hash(token))


def may_try(connection: Connection, name: str, address: str) -> None:
    """Raise EditError where too many wrong passwords came lately from an address, as those of a session left open."""
    if _tried_often(connection, name, address):
        raise EditError("too many wrong passwords: wait a quarter of an hour", "old")


def tried(connection: Connection, name: str, address: str) -> None:
    """Keep that a wrong password was given."""
    queries.note_sign_in_try(connection, name=name[:80], address=address[:64])


def give_password(connection: Connection, person_id: int) -> str:
    """A one-time password for somebody else, who is signed out everywhere."""
    password = one_time_password()
    queries.set_password(connection, person_id=person_id, password_hash=_hasher.hash(password), must_change=True)
    queries.end_sessions_of(connection, person_id=person_id, but="")
    row = queries.person_by_id(connection, person_id=person_id)
    queries.forget_sign_in_tries(connection, name=row["name"] if row else "")
    return password


def everybody(connection: Connection) -> list[dict[str, Any]]:
    """Everybody who works here, then who did."""
    return [dict(row) for row in queries.people(connection)]


def set_role(connection: Connection, person_id: int, role: str) -> None:
    """Another role. Raises EditError where no owner would be left."""
    if role not in ROLES:
        raise EditError(f"one of {', '.join(ROLES)}", "role")
    _not_the_last_owner(connection, person_id, role)
    queries.set_role(connection, person_id=person_id, role=role)


def goes(connection: Connection, person_id: int) -> None:
    """Somebody works here no more. Raises EditError for the last owner."""
    _not_the_last_owner(connection, person_id, "gone")
    queries.person_goes(connection, person_id=person_id)
    queries.end_sessions_of(connection, person_id=person_id, but="")


def forget(connection: Connection, names: list[str]) -> None:
    """Take people away who never were: those of the demo."""
    queries.forget_people(connection, names=names)


def _not_the_last_owner(connection: Connection, person_id: int, becomes: str) -> None:
    row = queries.person_by_id(connection, person_id=person_id)
    if row and row["role"] == "owner" and becomes != "owner" and int(queries.owners(connection)) <= 1:
        raise EditError("somebody must stay an owner: make another one first")


def first_owner(connection: Connection) -> str | None:
    """Make an owner where there is none; the one-time password, or None where there is one."""
    if int(queries.owners(connection)):
        return None
    password = one_time_password()
    add(connection, "owner", "owner", password)
    return password


def note(connection: Connection, who: str, what: str, job_id: int | None, address: str) -> None:
    """Keep who did what."""
    queries.note_audit(connection, who=who[:80], what=what[:MOST_WHAT], job_id=job_id, address=address[:64])


@dataclass(frozen=True)
class Note:
    """A line of the audit: who made it, what it was, of which job, from where."""

    who: str
    what: str
    job_id: int | None
    address: str


def note_if_changed(connection: Connection, one: Note) -> bool:
    """Keep who did what if this transaction changed anything; whether it did."""
    row = queries.note_audit_if_changed(
        connection, who=one.who[:80], what=one.what[:MOST_WHAT], job_id=one.job_id, address=one.address[:64]
    )
    return row is not None


def audit(
    connection: Connection,
    *,
    job_id: int | None = None,
    who: str | None = None,
    before: int | None = None,
    most: int = 100,
) -> list[dict[str, Any]]:
    """Return the audit, the newest first."""
    return [dict(row) for row in queries.audit_list(connection, job_id=job_id, who=who, before=before, most=most)]
