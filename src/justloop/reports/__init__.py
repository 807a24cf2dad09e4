"""Pages for paper."""
