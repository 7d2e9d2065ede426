from django.apps import AppConfig


class ShotsConfig(AppConfig):
    name = "shots"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        from arrivals.uploading import receives
        from jobs.events import leaving
        from work.registry import SOON, register, tidy

        from . import checking, holding, mending, packages, proxies, receiving, sending, singles

        receives("footage", receiving.RECEIVER)
        register(receiving.WORK, receiving.run_reading, queue=SOON, failed=receiving.refused)
        register(proxies.WORK, proxies.run_proxies, queue=SOON)
        register(singles.WORK, singles.run_single, queue=SOON)
        register(checking.REGIONS, checking.run_regions)
        register(sending.WORK, mending.run_mending, failed=mending.mending_failed)
        register(packages.WORK, packages.run_package, queue=SOON)
        tidy(packages.forget_packages)
        leaving.connect(holding.refuse_while_working)
        register(checking.WORK, checking.run_check, failed=checking.check_failed)
