"""The ``./brunt`` command: prepares the machine, starts and stops things. Standard library only
until the virtual environment exists."""
