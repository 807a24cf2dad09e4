"""The demo's jobs, entirely fictional: one file a job."""
