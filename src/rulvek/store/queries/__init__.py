"""Questions to the records whose answers are lists, counts or single figures rather than whole records, by place."""
