"""The office: what a job costs, quotes and the customer's yes, hours and what was noted, the shop's rates."""

from . import hours, link, quote, rates

BLUEPRINTS = (rates.room, quote.room, link.room, hours.room)
