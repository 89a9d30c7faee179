"""Live instruments: the line protocol, the bridge from a wire to a browser, simulated stand-ins."""
