"""Settings: ``base`` holds what all share; ``demo``, ``test`` and ``production`` say what differs."""
