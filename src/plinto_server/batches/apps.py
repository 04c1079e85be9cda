from django.apps import AppConfig


class BatchesConfig(AppConfig):
    name = "plinto_server.batches"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        """Workers hand out what batches have waiting and look after watched folders: when a run ends, every few seconds."""
        from django.db import transaction

        from plinto_server.batches import keeping
        from plinto_server.batches.service import hand_out
        from plinto_server.batches.watched import listen, look
        from plinto_server.jobs import kinds
        from plinto_server.jobs.models import Run

        def after(run: Run) -> None:
            if hasattr(run, "batch_item"):
                transaction.on_commit(hand_out)

        kinds.when_ended(after)
        kinds.looked_after += [hand_out, look, keeping.look]
        kinds.begun_with_worker.append(listen)
