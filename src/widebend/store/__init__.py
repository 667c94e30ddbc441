"""The store: PostgreSQL through plain SQL.

May import core and formats (to read documents). Never: the web. SQL lives in migrations/ (numbered, never changed
once landed) and queries/ (every query named and described); the caller sets the transaction. Surveys and designs are
a row a revision, never updated in place.
"""
