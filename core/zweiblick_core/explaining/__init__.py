"""What explains what: one flaw is one finding, and is called by its cause."""
