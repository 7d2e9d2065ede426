from django.apps import AppConfig


class ShotsConfig(AppConfig):
    name = "shots"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        from arrivals.uploading import receives
        from work.registry import SOON, register

        from . import checking, mending, proxies, receiving, sending

        receives("footage", receiving.RECEIVER)
        register(receiving.WORK, receiving.run_reading, queue=SOON, failed=receiving.refused)
        register(proxies.WORK, proxies.run_proxies, queue=SOON)
        register(checking.REGIONS, checking.run_regions)
        register(sending.WORK, mending.run_mending, failed=mending.mending_failed)
        register(checking.WORK, checking.run_check, failed=checking.check_failed)
