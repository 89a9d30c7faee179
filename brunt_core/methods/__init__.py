"""Test methods. Each public module of this package defines one ``METHOD``; nothing registers it."""
