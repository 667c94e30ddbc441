"""The Hang step: what it hangs from and by, what each hanger carries, how far it sags, what swings."""

from . import edits, page, papers

BLUEPRINTS = (page.room, edits.room, papers.room)
