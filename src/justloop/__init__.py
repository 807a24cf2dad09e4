"""The web application: jobs, workspace and drawings around ``returnpath``."""
