"""What a part must carry, how thick it must be, and which material holds with what margin."""
