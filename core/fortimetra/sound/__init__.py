"""The recording itself: decoding under limits, levels, noise floor, hum, clipping."""
