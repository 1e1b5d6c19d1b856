"""A whole studio as one file, and back. The format is described in docs/formats/studio-archive.md."""
