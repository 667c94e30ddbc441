"""An address as a square code that a phone photographs."""

from __future__ import annotations


def code_of(address: str) -> str:
    """The code as a picture's address."""
    import segno

    return segno.make(address, error="m").svg_data_uri(scale=4, border=2)
