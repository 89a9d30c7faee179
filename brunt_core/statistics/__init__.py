"""Summaries, comparisons, ratios and rankings that respect bounds."""
