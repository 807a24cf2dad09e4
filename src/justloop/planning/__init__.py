"""The work of a job: procedures under way, parts and money, dates, visits of the office."""
