"""Of the plan."""
