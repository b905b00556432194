"""Django around the core: what is stored, who may do what, the API, the live link, the tasks."""
