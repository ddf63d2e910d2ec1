"""Marks that were put on: ink told from its ground, laid on another's, rings, threads of an embroidery."""
