"""Imported by a child that carries out what other packages bring: there it is done, and nowhere else."""

from zembra.core.ledger.isolation import isolate_with, run_here

isolate_with(run_here)
