"""The machine's own authority: made once, for this address alone, renewed in time, its key for nobody else."""

import ipaddress
import shutil
import tempfile
from datetime import UTC, datetime, timedelta
from pathlib import Path
from unittest import mock

from cryptography import x509
from cryptography.x509.verification import PolicyBuilder, Store, VerificationError
from django.test import SimpleTestCase

from cantrel import lan, phone


class Authority(SimpleTestCase):
    def setUp(self):
        self.folder = Path(tempfile.mkdtemp())
        self.addCleanup(shutil.rmtree, self.folder)

    def verified(self, found, host, at=None):
        """By another library's rules for certificates, not by ours."""
        store = Store([x509.load_pem_x509_certificate(found.authority.read_bytes())])
        leaf = x509.load_pem_x509_certificate(found.certificate.read_bytes())
        builder = PolicyBuilder().store(store).time(at or datetime.now(UTC))
        return builder.build_server_verifier(x509.IPAddress(ipaddress.ip_address(host))).verify(leaf, [])

    def test_for_its_address_and_for_no_other(self):
        found = lan.certificates(self.folder, "192.0.2.7")
        self.assertEqual(len(self.verified(found, "192.0.2.7")), 2)
        with self.assertRaises(VerificationError):
            self.verified(found, "192.0.2.8")
        with self.assertRaises(VerificationError):
            self.verified(found, "192.0.2.7", datetime.now(UTC) + timedelta(days=lan.LEAF_DAYS + 2))

    def test_phones_trust_it_once_whatever_the_address_becomes(self):
        first = lan.certificates(self.folder, "192.0.2.7")
        authority, leaf = first.authority.read_bytes(), first.certificate.read_bytes()
        self.assertEqual(lan.certificates(self.folder, "192.0.2.7").certificate.read_bytes(), leaf)
        moved = lan.certificates(self.folder, "192.0.2.9")
        self.assertEqual(moved.authority.read_bytes(), authority)
        self.verified(moved, "192.0.2.9")

    def test_renewed_before_it_runs_out(self):
        with mock.patch.object(lan, "LEAF_DAYS", 20):  # less than a month is left of it at once
            old = lan.certificates(self.folder, "192.0.2.7").certificate.read_bytes()
        self.assertNotEqual(lan.certificates(self.folder, "192.0.2.7").certificate.read_bytes(), old)

    def test_keys_are_for_whoever_serves_alone(self):
        lan.certificates(self.folder, "192.0.2.7")
        for key in self.folder.glob("*.key"):
            self.assertEqual(key.stat().st_mode & 0o077, 0, key.name)

    def test_what_the_program_is_told(self):
        with mock.patch.dict("os.environ", {"CANTREL_PHONE_HOST": "192.0.2.7"}):
            told = phone.surroundings(4711)
            self.assertEqual(lan.to_trust(), f"http://192.0.2.7:{lan.TRUST_PORT}/")
        self.assertIn(f"https://192.0.2.7:{lan.TLS_PORT}", told["CANTREL_ORIGINS"].split(","))
        self.assertIn("192.0.2.7", told["CANTREL_HOSTS"].split(","))
        self.assertEqual(told["CANTREL_PORT"], "4711")
