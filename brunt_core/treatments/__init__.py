"""What treatments do: water, heat, change of size, effect on strength."""
