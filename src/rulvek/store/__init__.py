"""The records: tables, migrations, queries, capture files and the audit chain. No rules of the job."""
