"""What ./start does to the database before serving: migrations, and the demo if it is wished."""

from __future__ import annotations

from typing import Any

from django.conf import settings
from django.core.management import call_command
from django.core.management.base import BaseCommand
from django.db import connection
from django.db.migrations.executor import MigrationExecutor

from server.demo.pieces import missing


class Command(BaseCommand):
    help = __doc__

    def handle(self, *args: Any, **options: Any) -> None:
        executor = MigrationExecutor(connection)
        if executor.migration_plan(executor.loader.graph.leaf_nodes()):
            call_command("migrate", verbosity=0)
        # Looked at here as well, since only loading it needs the core and its compiled kernels.
        if settings.DEMO and missing():
            call_command("loaddemo")
