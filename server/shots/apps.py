from django.apps import AppConfig


class ShotsConfig(AppConfig):
    name = "shots"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        from arrivals.uploading import receives
        from work.registry import SOON, register

        from . import checking, proxies, receiving

        receives("footage", receiving.RECEIVER)
        register(receiving.WORK, receiving.run_reading, queue=SOON, failed=receiving.refused)
        register(proxies.WORK, proxies.run_proxies, queue=SOON)
        register(checking.REGIONS, checking.run_regions)
        register(checking.WORK, checking.run_check, failed=checking.check_failed)
