"""The question desk: editing a question, and nothing else."""
