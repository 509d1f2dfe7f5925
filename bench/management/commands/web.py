"""The web process: a front that takes whole requests in before a thread works on them, so that slow senders hold up nobody."""

from __future__ import annotations

import logging
import socket
from typing import Any

import waitress
from django.conf import settings
from django.core.management import BaseCommand

THREADS = 16


class Command(BaseCommand):
    help = "serve the application on 127.0.0.1, without a worker"

    def add_arguments(self, parser: Any) -> None:
        parser.add_argument(
            "--socket", type=int, required=True, metavar="FD", help="a listening socket of the parent's"
        )

    def handle(self, *args: Any, **options: Any) -> None:
        logging.getLogger("waitress.queue").setLevel(logging.ERROR)  # waiting for a thread is no news
        from bench.wsgi import application

        proxies: dict[str, Any] = {}
        if settings.PROXIES:  # only what runs on this host reaches us, so whoever asks is the proxy
            proxies = {
                "trusted_proxy": "*",
                "trusted_proxy_count": settings.PROXIES,
                "clear_untrusted_proxy_headers": True,
                "trusted_proxy_headers": {"x-forwarded-for", "x-forwarded-proto"},
            }
        waitress.serve(
            application,
            sockets=[socket.socket(fileno=options["socket"])],
            threads=THREADS,
            ident=None,
            asyncore_use_poll=True,
            connection_limit=4000,
            backlog=1024,
            channel_timeout=90,
            cleanup_interval=15,
            max_request_body_size=520 * 2**20,
            max_request_header_size=64 * 1024,
            inbuf_overflow=2**20,
            outbuf_overflow=2**20,
            outbuf_high_watermark=2**22,
            **proxies,
        )
