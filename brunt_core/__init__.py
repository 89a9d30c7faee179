"""The computation behind Brunt: quantities, sections, test methods, uncertainty, statistics.

Nothing in this package knows about the web, the database, files or clocks: values in, records out.
All lengths, forces and so on are SI floats inside; units appear only in :mod:`brunt_core.quantities`.
"""

__version__ = "0.1.0"
