"""The shop's time zone: the books, the clock on the wall and "today" go by one."""

from __future__ import annotations

import os
from pathlib import Path
from zoneinfo import available_timezones

LOCALTIME = Path("/etc/localtime")


def shop_zone() -> str:
    """The name of the zone that this computer's clock goes by, as TZ or the system says; UTC where neither does."""
    said = os.environ.get("TZ", "").removeprefix(":")
    name = said or str(LOCALTIME.resolve()).partition("zoneinfo/")[2]
    return name if name in available_timezones() else "UTC"
