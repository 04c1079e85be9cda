from django.apps import AppConfig
from django.db.models.signals import post_migrate


class FilesConfig(AppConfig):
    name = "plinto_server.files"
    label = "files"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        """A data folder from before files had owners gets them once its tables are there."""
        from plinto_server.files.holders import adopt_older_data

        post_migrate.connect(adopt_older_data, sender=self, dispatch_uid="files.adopt")
