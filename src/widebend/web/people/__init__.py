"""People: signing in and out, one's own account, who works here with which role, what was done by whom."""

from . import account, signing, staff

BLUEPRINTS = (signing.room, account.room, staff.room)
