"""Learn: experiments, hidden defects, sizes; what each person knows, and what comes back."""
