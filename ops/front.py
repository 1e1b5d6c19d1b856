"""What stands at the door: nginx takes requests in whole before a thread of the application sees them.

Slow and half-open requests then cost a connection of thousands, not one of a few threads. Timeouts end those that
send no headers or stop sending; an address may hold so many connections at once.
"""

from __future__ import annotations

import getpass
import grp
import ipaddress
import json
import os
from collections.abc import Sequence
from pathlib import Path

from ops.say import StartError

NGINX = Path("/usr/sbin/nginx")
CONNECTIONS = 4096
# A class of thirty behind one address has some tabs open each; browsers hold six connections a page.
CONNECTIONS_OF_AN_ADDRESS = 300
HEADERS_S = 10
# Between two pieces of a body: a phone that goes through a tunnel.
BODY_PAUSE_S = 30
# What stands around a file in a form.
FORM_BYTES = 100_000
ARCHIVE = "/api/v1/reports/archive"


def proxies(named: str) -> list[str]:
    """FORTIMETRA_PROXIES: addresses or networks, with commas between them, of what stands before this machine.

    Raises StartError for what is neither.
    """
    found = []
    for part in (p.strip() for p in named.split(",")):
        if not part:
            continue
        try:
            found.append(str(ipaddress.ip_network(part, strict=False)))
        except ValueError:
            raise StartError(
                f"FORTIMETRA_PROXIES names “{part}”, which is no address and no network.",
                "write addresses such as 10.0.0.5 or networks such as 10.0.0.0/24, with commas between them",
            ) from None
    return found


def configuration(
    *,
    bind: str,
    application: Path,
    folder: Path,
    log: Path,
    media: Path,
    upload_bytes: int,
    archive_bytes: int,
    trusted: Sequence[str] = (),
) -> str:
    """nginx.conf. bind: address and port; application: the socket it passes requests to; folder: for what is under
    way, of this account alone; trusted: the proxies whose word on a request's client and scheme is taken.
    """
    real = "".join(f"    set_real_ip_from {p};\n" for p in trusted)
    known = "".join(f"        {p} 1;\n" for p in trusted)
    temporary = "".join(
        f'    {kind}_temp_path "{folder}/{kind}";\n' for kind in ("client_body", "proxy", "fastcgi", "uwsgi", "scgi")
    )
    too_large = (
        f"At most {upload_bytes / 1e6:.0f} MB are taken. Export the recording as FLAC or cut it to the exercise."
    )
    return f"""
daemon off;
user {getpass.getuser()} {grp.getgrgid(os.getgid()).gr_name};
worker_processes 1;
worker_rlimit_nofile {2 * CONNECTIONS};
pid "{folder}/pid";
error_log "{log}" alert;
events {{ worker_connections {CONNECTIONS}; }}
http {{
    include /etc/nginx/mime.types;
    access_log off;
    server_tokens off;
{temporary}
    client_header_timeout {HEADERS_S}s;
    client_body_timeout {BODY_PAUSE_S}s;
    send_timeout 30s;
    keepalive_timeout 60s;
    reset_timedout_connection on;
    limit_conn_zone $binary_remote_addr zone=address:4m;
    limit_conn address {CONNECTIONS_OF_AN_ADDRESS};
    limit_conn_status 429;

{real}    real_ip_header X-Forwarded-For;
    real_ip_recursive on;
    geo $realip_remote_addr $from_proxy {{
        default 0;
{known}    }}
    map "$from_proxy $http_x_forwarded_proto" $client_scheme {{
        default $scheme;
        "1 https" https;
    }}

    upstream application {{ server "unix:{application}" fail_timeout=0; }}
    server {{
        listen {bind};
        client_max_body_size {upload_bytes + FORM_BYTES};
        proxy_http_version 1.1;
        proxy_set_header Connection "";
        proxy_set_header Host $http_host;
        proxy_set_header X-Forwarded-For $remote_addr;
        proxy_set_header X-Forwarded-Proto $client_scheme;
        proxy_request_buffering on;
        proxy_read_timeout 120s;
        error_page 413 /-/too-large;
        error_page 429 /-/too-many;
        error_page 502 504 =503 /-/away;

        location / {{ proxy_pass http://application; }}
        location = {ARCHIVE} {{
            client_max_body_size {archive_bytes + FORM_BYTES};
            proxy_pass http://application;
        }}
        # Asks the database, the broker and the store: for this machine's own, not for everybody.
        location = /-/ready {{
            allow 127.0.0.1;
            allow ::1;
            deny all;
            proxy_pass http://application;
        }}
        # The application says who may have a file; from here it goes out, in parts where a player asks for parts.
        location /-/media/ {{
            internal;
            alias "{media}/";
        }}
        location = /-/too-large {{
            internal;
            {_answer(413, "too_large", too_large)}
        }}
        location = /-/too-many {{
            internal;
            {_answer(429, "too_many", "Too many connections at once from your address. Wait a moment and try again.")}
        }}
        location = /-/away {{
            internal;
            {_answer(503, "away", "Fortimetra is starting again. Try again in half a minute; nothing is lost.")}
        }}
    }}
}}
"""


def _answer(status: int, code: str, detail: str) -> str:
    title = {413: "Request Entity Too Large", 429: "Too Many Requests", 503: "Service Unavailable"}[status]
    body = json.dumps({"type": "about:blank", "title": title, "status": status, "code": code, "detail": detail})
    return f"default_type application/problem+json;\n            return {status} '{body}';"
