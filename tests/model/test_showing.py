"""What is shown of a text: no password of a command or an address, nothing that is not seen."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fairledger.model.showing import discreet, passwords_in, visible


@pytest.mark.parametrize(
    "text",
    [
        'net user keeper "@" /add',
        "net.exe user keeper @ /add",
        r"net use Z: \\lmr-files\a /user:LMR\joe @",
        r"net use Z: \\lmr-files\a @ /user:joe",
        "curl -sS -u joe:@ https://lmr-files",
        "wget --user=joe --password=@ https://lmr-files",
        "subscription-manager register --username joe --password @",
        "Set-LocalUser keeper -Password '@'",
        "$password = '@'; x",
        "DB_PASSWORD=@ ./run",
        "sshpass -p @ ssh lmr-gate",
        "schtasks /create /ru joe /rp @",
        "echo @ | passwd --stdin keeper",
        "echo 'keeper:@' | chpasswd",
        "ConvertTo-SecureString -String '@' -AsPlainText",
        "curl -H 'Authorization: Bearer @' x",
        "psexec \\\\lmr-desk -u joe -p @ cmd",
        "msiexec /i a.msi PASSWORD=@ /qn",
        "slmgr /ipk @",
        "cat > /tmp/a <<E\nrootpw --plaintext @\nE",
    ],
)
def test_a_password_in_a_command_is_found_and_hidden(text):
    whole = text.replace("@", "Kestrel-7")
    assert "Kestrel-7" not in discreet(whole)
    assert "(hidden)" in discreet(whole)
    assert len(discreet(whole)) >= len(text) - 3


@pytest.mark.parametrize(
    "text",
    [
        "net user keeper /active:yes",
        "net user keeper %PW% /add",
        "$password = Read-Host; Set-LocalUser keeper -Password $password",
        "TOKEN=$(cat /run/token); export PASSWORD=${PW}",
        "echo 'keeper:$6$a$b' | chpasswd -e",
        "sed -i 's/^#PasswordAuthentication.*/PasswordAuthentication no/' /etc/ssh/sshd_config",
        "cat /etc/passwd; passwd -l root; getent passwd keeper",
        "password    requisite     pam_pwquality.so",
        "curl -o /root/a https://lmr-files/a -u $USER",
        "rootpw --iscrypted $6$a$b",
        "openssl rand -hex 8 > /root/token",
    ],
)
def test_what_is_no_password_is_shown(text):
    assert passwords_in(text) == []


@given(st.text(max_size=60))
def test_nothing_unseen_is_shown_and_what_is_seen_stays(text):
    assert visible(text).isprintable()
    assert text.isprintable() <= (visible(text) == text or "://" in text)
