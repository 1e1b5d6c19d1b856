"""Accuracy and speed beside general libraries, on the same sounds in one run. `./run bench [NAME …]`."""
