from django.apps import AppConfig


class OutsideConfig(AppConfig):
    name = "outside"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        from work.registry import register

        from .running import order_failed, run_order

        register("order", run_order, failed=order_failed)
