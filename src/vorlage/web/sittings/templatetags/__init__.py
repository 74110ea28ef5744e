"""What the pages of sittings need to show a question."""
