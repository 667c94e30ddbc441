"""The office: what a job costs, quotes and the customer's yes, hours and what was noted, the shop's rates."""

from . import board, cards, carrying, handover, hours, link, months, quote, rates

BLUEPRINTS = (
    board.room,
    rates.room,
    months.room,
    quote.room,
    link.room,
    hours.room,
    handover.room,
    cards.room,
    carrying.room,
)
