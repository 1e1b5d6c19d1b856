"""One module per family of measures: from matched notes and contour to numbers with their uncertainty."""
