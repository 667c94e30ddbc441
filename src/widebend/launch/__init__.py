"""Starting and stopping: our own PostgreSQL cluster, the web server, the tests.

May import everything. Never holds a rule of the trade.
"""
