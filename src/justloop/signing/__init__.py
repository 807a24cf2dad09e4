"""Sign-off: what stands open, the seal, the bundle, the report, the owner's walk."""
