"""What is in the sound: contour, onsets, heard notes. No knowledge of a drill but the range to look in."""
