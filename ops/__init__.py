"""Setting up and running the application on one machine. Standard library only: it runs before anything is
installed.
"""
