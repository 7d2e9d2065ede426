from django.apps import AppConfig


class AttemptsConfig(AppConfig):
    name = "attempts"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        from work.registry import register

        from .assembling import assembly_failed, run_assembly

        register("assembly", run_assembly, failed=assembly_failed)
