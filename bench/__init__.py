"""The Django project: accounts, jobs, background work, the API, and serving the front end."""
