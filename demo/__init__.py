"""The demo scenario: Pier Nine, a consignment counter in the harbour town of Lindhaven. All of it is invented."""
