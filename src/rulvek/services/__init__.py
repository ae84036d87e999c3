"""Use cases: what people do with the records and the bench. They speak neither HTTP nor SQL."""
