"""Form sets: made, frozen, printed."""
