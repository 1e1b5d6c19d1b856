"""Version of the measuring core; results of different versions are told apart by it."""

__version__ = "0.5.16"
