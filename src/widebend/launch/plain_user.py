"""Who serves when the program is started as root: the system's user who owns nothing, where that user can."""

from __future__ import annotations

import os
import pwd
import sys
from pathlib import Path
from typing import Any

NAME = "nobody"


def plain_user() -> pwd.struct_passwd | None:
    """The user that serving processes become; None when we are no root, or that user cannot read the program."""
    if os.geteuid() != 0:
        return None
    try:
        user = pwd.getpwnam(NAME)
    except KeyError:
        return None
    folders = (Path(sys.prefix), Path(sys.executable).resolve().parent, Path(__file__).parents[1])
    return user if all(may_enter(user, folder) for folder in folders) else None


def may_enter(user: pwd.struct_passwd, folder: Path) -> bool:
    """Whether a user, by its own number or anybody's right, can enter a folder and all above it."""
    for parent in (folder, *folder.parents):
        mode = parent.stat()
        if not mode.st_mode >> (6 if mode.st_uid == user.pw_uid else 0) & 1:
            return False
    return True


def hand_over(user: pwd.struct_passwd, *folders: Path) -> None:
    """Give folders of ours, and what is in them, to the user that will write there."""
    for folder in folders:
        folder.mkdir(parents=True, exist_ok=True)
        for path in (folder, *folder.rglob("*")):
            os.chown(path, user.pw_uid, user.pw_gid, follow_symlinks=False)


def at_home_of(user: pwd.struct_passwd) -> None:
    """Libraries look for settings in the home of who serves: root's cannot be entered, and they fail over that."""
    os.environ["HOME"] = user.pw_dir
    for name in [name for name in os.environ if name.startswith("XDG_")]:
        del os.environ[name]


def as_user(user: pwd.struct_passwd | None) -> dict[str, Any]:
    """Return the arguments of subprocess for a process as that user; nothing when it is to stay ours."""
    return {"user": user.pw_uid, "group": user.pw_gid, "extra_groups": []} if user else {}
