"""The drill card: how a drill is practised, in plain words, from its family, its notes and its tolerances."""
