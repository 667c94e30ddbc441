"""Digital measuring tools: taking a reading from one, and the stand-ins that ship with the program.

May import core. A tool is a stream of lines on a socket (docs/instruments.md); a real one is put in a stand-in's place
by its address alone.
"""
