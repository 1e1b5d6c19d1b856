"""What the hands do: places and fingers, strokes, who damps which string, and what answers in sympathy."""
