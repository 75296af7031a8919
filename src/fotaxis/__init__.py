"""Fotaxis: light for product photographers, computed.

core computes, services do what a user sets out to do, storage keeps, formats read and write, web shows.
"""

__version__ = "0.1.0"
