from django.apps import AppConfig


class JobsConfig(AppConfig):
    name = "plinto_server.jobs"
    #: The tables' name, from when there were only separations.
    label = "runs"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        """A run holds what it is made of while it goes on, and what came out of it for as long as it is listed."""
        from plinto_server.files.holders import holds_files
        from plinto_server.jobs.kinds import digests_of

        holds_files("runs.Run", digests_of)
