"""The Layout step: hardware placed, joined up, mirrored, taken out, looked at from behind and in space."""

from . import big_pieces, crossings, fixings, in_space, own_shelf, parts, rear_view, taking_out, use

BLUEPRINTS = (
    big_pieces.room,
    parts.room,
    fixings.room,
    crossings.room,
    taking_out.room,
    use.room,
    rear_view.room,
    own_shelf.room,
    in_space.room,
)
