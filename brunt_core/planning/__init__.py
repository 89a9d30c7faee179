"""Planning: run order, replicates, estimates."""
