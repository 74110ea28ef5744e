"""Rooms, and seat plans: who sits where with which form."""
