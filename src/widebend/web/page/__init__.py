"""The basis of every page: the job at hand, forms read, edits that travel, refusals in words, how far a job is."""
