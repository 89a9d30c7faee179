"""Measuring tools: speed, endurance, whether claims hold, screenshots. No part of the product."""
