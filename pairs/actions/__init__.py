"""One user action per file. Rights are checked by the caller that knows the case; these keep what is seen in order."""
