"""Long work beside the pages: tasks on a queue in the shop's own PostgreSQL, and the worker that does them.

May import core, formats and store.
"""
