"""The rules of the job: values in, values out. No web, no database, no clock, no network."""
