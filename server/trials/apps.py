from django.apps import AppConfig


class TrialsConfig(AppConfig):
    name = "trials"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        from work.registry import register

        from .running import run_trial, trial_failed

        register("trial", run_trial, failed=trial_failed)
