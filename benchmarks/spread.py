"""Whether an installation that is spread over hosts is one. `./run bench spread [--takes 12]`.

Hosts are loopback addresses of this machine: two web hosts behind a proxy, three worker hosts, one database, one
broker, one bucket (moto's server, which speaks S3). A teacher signs in through the proxy and sends takes; in the
middle of it one web host and one worker host are killed. Every take has to be there and measured once, every page
answered, and what lies in the bucket has to be what the rows know.
"""

from __future__ import annotations

import argparse
import json
import os
import signal
import subprocess
import sys
import tempfile
import time
import uuid
from contextlib import ExitStack
from pathlib import Path

import boto3
from moto.server import ThreadedMotoServer

from benchmarks.load import Person
from benchmarks.scale import LOOK_S, STUDIO, TWICE, asked, hosts, shell, states, until_measured
from ops import setup
from ops.database import free_port
from ops.services import Stack

BUCKET_HOST, PROXY_HOST, WEB_HOSTS = "127.0.0.5", "127.0.0.4", ("127.0.0.2", "127.0.0.3")
EMAIL, PASSWORD, BUCKET = "t@scale.example", "a quiet mooring 7", "recordings"
WORKERS = 3
CHECK = "from django.core.management import call_command; call_command('check_store')"
PROXY = """
daemon off; pid {folder}/nginx.pid; error_log {folder}/nginx.log;
events {{}}
http {{
  access_log off; client_body_temp_path {folder}/body; proxy_temp_path {folder}/proxy;
  fastcgi_temp_path {folder}/f; uwsgi_temp_path {folder}/u; scgi_temp_path {folder}/s;
  client_body_buffer_size 50m; proxy_max_temp_file_size 0;
  upstream web {{ {servers} }}
  server {{
    listen {listen};
    client_max_body_size 100m;
    location / {{
      proxy_pass http://web; proxy_set_header Host $http_host; proxy_set_header X-Forwarded-For $remote_addr;
      proxy_set_header X-Forwarded-Proto http; proxy_next_upstream error timeout; proxy_connect_timeout 2s;
    }}
  }}
}}
"""


def bucket(keep: ExitStack) -> dict[str, str]:
    """A bucket, and how the application is told of it."""
    port = free_port()
    server = ThreadedMotoServer(ip_address=BUCKET_HOST, port=port, verbose=False)
    server.start()
    keep.callback(server.stop)
    endpoint = f"http://{BUCKET_HOST}:{port}"
    key = {"aws_access_key_id": "x", "aws_secret_access_key": "y"}
    s3 = boto3.client("s3", endpoint_url=endpoint, region_name="eu-west-1", **key)
    s3.create_bucket(Bucket=BUCKET, CreateBucketConfiguration={"LocationConstraint": "eu-west-1"})
    return {
        "FORTIMETRA_BUCKET": BUCKET, "FORTIMETRA_BUCKET_ENDPOINT": endpoint, "FORTIMETRA_BUCKET_REGION": "eu-west-1",
        "FORTIMETRA_BUCKET_KEY": "x", "FORTIMETRA_BUCKET_SECRET": "y", "FORTIMETRA_HOSTS": f"{PROXY_HOST},127.0.0.1",
    }  # fmt: skip


def web(stack: Stack, keep: ExitStack) -> tuple[list[subprocess.Popen[bytes]], int]:
    """The web hosts, and the port of the proxy before them."""
    started, servers = [], []
    for host in WEB_HOSTS:
        port = free_port()
        log = keep.enter_context((stack.logs / f"web-{host}.log").open("ab"))
        started.append(
            subprocess.Popen(
                [str(setup.PYTHON), "-m", "gunicorn", "config.wsgi", "--bind", f"{host}:{port}", "--workers", "1",
                 "--threads", "4", "--access-logfile", "-"],
                env=stack.environment(), cwd=stack.run, stdout=log, stderr=log, start_new_session=True,
            )
        )  # fmt: skip
        keep.callback(_kill, started[-1])
        servers.append(f"server {host}:{port} max_fails=1 fail_timeout=5s;")
    port = free_port()
    conf = stack.run / "proxy.conf"
    conf.write_text(PROXY.format(folder=stack.run, servers=" ".join(servers), listen=f"{PROXY_HOST}:{port}"))
    proxy = subprocess.Popen(["nginx", "-c", str(conf), "-e", str(stack.run / "nginx.log")], start_new_session=True)
    keep.callback(_kill, proxy)
    return started, port


def _kill(process: subprocess.Popen[bytes]) -> None:
    """With what it has started; all of them are the first of a group."""
    if process.poll() is None:
        os.killpg(process.pid, signal.SIGKILL)
    process.wait()


def signed_in(port: int) -> Person:
    """The teacher, as soon as a web host answers."""
    until = time.monotonic() + 120.0
    while True:
        try:
            return Person(port, EMAIL, password=PASSWORD, host=PROXY_HOST)
        except (RuntimeError, OSError):
            if time.monotonic() > until:
                raise
            time.sleep(LOOK_S)


def send(person: Person, sound: bytes, student: int, drill: int) -> str:
    """Send a take under an id of one's own, again where the answer was lost; its id."""
    take, edge = str(uuid.uuid4()), uuid.uuid4().hex
    fields = {"student_id": str(student), "drill_id": str(drill), "id": take}
    body = b"".join(
        f'--{edge}\r\nContent-Disposition: form-data; name="{name}"\r\n\r\n{value}\r\n'.encode()
        for name, value in fields.items()
    )
    head = f'--{edge}\r\nContent-Disposition: form-data; name="file"; filename="a.flac"\r\n\r\n'
    body += head.encode() + sound + f"\r\n--{edge}--\r\n".encode()
    said = "no answer"
    for _ in range(5):
        try:
            status, answer = person.ask("POST", "/api/v1/takes", body, f"multipart/form-data; boundary={edge}")
        except OSError:
            continue
        if status == 201:
            return str(json.loads(answer)["id"])
        said = f"{status} {answer[:200]!r}"
    raise RuntimeError(f"not taken: {said}")


def main() -> int:
    """Say what was lost: nothing."""
    parser = argparse.ArgumentParser(prog="./run bench spread")
    parser.add_argument("--takes", type=int, default=12)
    options = parser.parse_args()
    with tempfile.TemporaryDirectory(prefix="fortimetra-spread-") as folder, ExitStack() as keep:
        stack = Stack(Path(folder) / "data", throwaway=True)
        keep.callback(stack.stop)
        stack.extra_env |= bucket(keep)
        stack.start_database()
        stack.start_broker()
        stack.prepare(demo=False)
        shell(stack, STUDIO)
        sound = (stack.data / "sound.flac").read_bytes()
        running, port = web(stack, keep)
        keep.enter_context(hosts(stack, WORKERS))
        return _told(stack, running, signed_in(port), sound, options.takes)


def _told(stack: Stack, web_hosts: list[subprocess.Popen[bytes]], person: Person, sound: bytes, count: int) -> int:
    student = json.loads(person.get("/api/v1/students"))[0]["id"]
    drill = next(d["id"] for d in json.loads(person.get("/api/v1/drills")) if d["family"] == "alternate_picking")
    sent, answered = [], 0
    for number in range(count):
        sent.append(send(person, sound, student, drill))
        if number == count // 2:
            _kill(web_hosts[0])
        for path in ("/takes/desk?limit=100", "/students", f"/takes/{sent[-1]}"):
            person.get(f"/api/v1{path}")
            answered += 1
    killed = subprocess.run(["pkill", "-KILL", "-f", "host0@scale"], check=False).returncode == 0
    seconds = until_measured(stack, count)
    for take in sent:
        person.get(f"/api/v1/takes/{take}/analysis")
        answered += 1
    # Verdicts come first; what a sheet draws follows, and is in the bucket when its job is done.
    while asked(stack, "SELECT 1 FROM jobs_job LIMIT 1"):
        time.sleep(LOOK_S)
    found, twice = states(stack), int(asked(stack, TWICE)[0][0])
    by_host = {host: (stack.logs / f"web-{host}.log").read_text().count("/api/v1/") for host in WEB_HOSTS}
    store = shell(stack, CHECK).splitlines()[-1]
    print(f"\n{count} takes sent through the proxy, {answered} pages; requests by web host: {by_host}.")
    ended = "killed" if killed else "NOT KILLED"
    print(f"A web host killed after {count // 2 + 1} takes, a worker host {ended} in the batch.")
    print(f"{found}, all measured {seconds:.0f} s later; counted twice: {twice}. Bucket: {store}")
    fits = "0 not there, 0 nobody" in store and min(by_host.values()) > 0
    whole = found == {"measured": count} and twice == 0 and fits and killed
    print("Nothing lost." if whole else "SOMETHING WAS LOST.")
    return 0 if whole else 1


if __name__ == "__main__":
    sys.exit(main())
