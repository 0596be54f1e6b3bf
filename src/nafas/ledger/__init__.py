"""The ledger: renders, deliveries, rehearsals and audits, each with the version it was of. Nothing in it changes."""
