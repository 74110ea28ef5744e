"""What runs around the application: its database cluster, starting it, the demo, the tests, fuzzing."""
