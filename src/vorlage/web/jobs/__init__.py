"""Work that takes longer than a page may: queued, cancelled, taken up again, and never forgotten."""
