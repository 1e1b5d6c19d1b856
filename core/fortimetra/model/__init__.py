"""Typed models of the contract: what is asked (drill, click, set-up) and what was found (analysis)."""
