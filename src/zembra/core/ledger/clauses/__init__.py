"""Clauses: parts of entries' sentences that are one of several small sentences, with the method of each."""
