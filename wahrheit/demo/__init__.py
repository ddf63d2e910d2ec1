"""The demo scenario: Pier Nine, a consignment counter in the harbour town of Lindhaven. Everything in it is invented."""
