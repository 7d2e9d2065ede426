from django.apps import AppConfig


class SiblingsConfig(AppConfig):
    name = "siblings"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        from attempts.events import attempt_added
        from work.registry import register, tidy

        from .finding import ask_fingerprint, ask_missing, run_fingerprint

        register("fingerprint", run_fingerprint)
        attempt_added.connect(ask_fingerprint)
        tidy(ask_missing)
