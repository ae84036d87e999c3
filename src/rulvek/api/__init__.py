"""HTTP over the use cases: parse, call, shape the answer. No rules and no SQL live here."""
