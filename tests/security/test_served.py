"""Served under a name: Django's own check for deployments finds nothing, and the demo's password keeps it shut."""

import os
import subprocess
import sys
from pathlib import Path

import pytest
from apps.people.models import User
from django.conf import settings
from django.core.management import CommandError, call_command

ROOT = Path(__file__).parents[2]
SERVED = {
    "FORTIMETRA_HTTPS": "1",
    "FORTIMETRA_FRONT": "1",
    "FORTIMETRA_HOSTS": "guitar.school.example",
    "FORTIMETRA_SECRET_KEY": "a-long-one-that-is-only-for-this-test-0123456789-abcdefghijklmnopqrstuvwxyz",
}


def told(*arguments, **more):
    env = os.environ | {"PYTHONPATH": f"{ROOT / 'server'}:{ROOT}", "DJANGO_SETTINGS_MODULE": "config.settings"} | more
    return subprocess.run([sys.executable, *arguments], env=env, capture_output=True, text=True, cwd=ROOT)


def test_djangos_check_for_deployments_finds_nothing():
    found = told("server/manage.py", "check", "--deploy", "--fail-level", "WARNING", **SERVED)
    assert found.returncode == 0, found.stderr
    assert "no issues" in found.stdout + found.stderr
    open_one = told(
        "server/manage.py", "check", "--deploy", "--fail-level", "WARNING", **{**SERVED, "FORTIMETRA_HTTPS": ""}
    )
    assert "security.W008" in open_one.stderr


def test_pages_are_sent_to_https_with_a_years_promise():
    code = (
        "import django; django.setup(); from django.test import Client; c = Client(); "
        "h = {'HTTP_HOST': 'guitar.school.example'}; a = c.get('/', **h); print(a.status_code, a['Location']); "
        "b = c.get('/', HTTP_X_FORWARDED_PROTO='https', **h); print(b['Strict-Transport-Security']); "
        "print(b.cookies['csrftoken']['secure']); print(c.get('/', HTTP_HOST='other.example').status_code)"
    )
    lines = told("-c", code, **SERVED).stdout.splitlines()
    assert lines == ["301 https://guitar.school.example/", "max-age=31536000; includeSubDomains", "True", "400"]


@pytest.mark.django_db
def test_the_demos_password_keeps_it_shut(teacher):
    call_command("check_exposure")
    teacher.set_password(settings.DEMO_PASSWORD)
    teacher.save()
    with pytest.raises(CommandError, match="demo password"):
        call_command("check_exposure")
    User.objects.update(is_active=False)
    call_command("check_exposure")
