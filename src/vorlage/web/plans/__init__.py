"""Tests: which questions, in which order."""
