"""The open formats in and out: JSON, CSV, PDF.

May import core and libraries. Never: the web, SQL. A file from outside is size-limited, parsed whole or refused whole
with the place and the reason. Files are always in mm.
"""
