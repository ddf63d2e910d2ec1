"""One user action per file: rights, core, one transaction, a line in the ledger."""
