"""A small client of the API: what a folder holds is brought into a job."""
