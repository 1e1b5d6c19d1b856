"""The drill families as generators."""
