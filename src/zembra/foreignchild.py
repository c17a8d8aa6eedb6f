"""Imported by a child that carries out what other packages bring: there it is done, and nowhere else."""

from zembra.core.ledger.heldapart import carried_out_by, here

carried_out_by(here)
