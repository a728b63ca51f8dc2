"""The rules of the job: values in, values out. No Django, no network, no clock, no files."""
