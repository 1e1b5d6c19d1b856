"""The simulated student: renders a drill to sound with stated faults. Invented data, for the demo and for tests."""
