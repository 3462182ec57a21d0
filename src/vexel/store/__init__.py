"""What is kept: shots with their history, frames on disk, the ledger, compiled files."""
