"""From the plan document to the tables of a scan: a module a stage."""
