"""A signed bundle: whole, changed, forged, hostile."""

import io
import json
import tempfile
import unittest
import zipfile
from datetime import UTC, datetime
from pathlib import Path

from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey
from hypothesis import given, settings
from hypothesis import strategies as st

from returnpath.errors import BadInput
from returnpath.seal import (
    KnownKey,
    Signed,
    Whose,
    canonical,
    fingerprint,
    manifest_of,
    open_bundle,
    seal,
    verify_bundle,
    weak,
    whose,
    write_bundle,
)

from .test_command import run

KEY = Ed25519PrivateKey.from_private_bytes(bytes(range(32)))
SIGNED = Signed(who="Wren", licence="L-1", at="2026-11-27T03:00:00+00:00", edition=2023,
                engine="4.2", statement="What was computed.", revision=7)  # fmt: skip
FILES = {"job.json": b'{"a": 1}', "readings.csv": b"kind,place,value\n", "report.pdf": b"%PDF-"}


def sealed(files=FILES, signed=SIGNED, key=KEY) -> bytes:
    return write_bundle(seal(manifest_of("Pebblewick", files, signed), key), files)


def repacked(change) -> bytes:
    """The bundle with its files changed by ``change``."""
    with zipfile.ZipFile(io.BytesIO(sealed())) as old:
        files = {n: old.read(n) for n in old.namelist()}
    change(files)
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as new:
        for name, data in files.items():
            new.writestr(name, data)
    return out.getvalue()


class Bundles(unittest.TestCase):
    def test_whole_and_the_same_twice(self):
        found = verify_bundle(sealed())
        self.assertTrue(found.is_whole, found.problems)
        self.assertEqual(sealed(), sealed())
        self.assertEqual(found.manifest.signed, SIGNED)

    def test_canonical_is_one_way_to_write_it(self):
        self.assertEqual(canonical({"b": 1, "a": "Ω"}), '{"a":"Ω","b":1}'.encode())

    @given(st.sampled_from(sorted(FILES)), st.integers(0, 5), st.integers(1, 255))
    @settings(max_examples=60, deadline=None)
    def test_one_changed_byte_is_found(self, name, at, by):
        def change(files):
            data = bytearray(files[name])
            data[at % len(data)] ^= by
            files[name] = bytes(data)

        self.assertEqual(verify_bundle(repacked(change)).problems, (f"{name} was changed.",))

    def test_what_is_missing_added_or_said_otherwise_is_found(self):
        def said(files):
            manifest = json.loads(files["manifest.json"])
            manifest["signed"]["who"] = "Somebody else"
            files["manifest.json"] = json.dumps(manifest).encode()

        for change, words in (
            (lambda f: f.pop("job.json"), "missing"),
            (lambda f: f.update({"calendar.ics": b"x"}), "added"),
            (said, "What was signed was changed"),
        ):
            problems = verify_bundle(repacked(change)).problems
            self.assertIn(words, " ".join(problems))

    def test_another_hash_needs_the_firms_key(self):
        def forged(files):
            mine = seal(manifest_of("Pebblewick", FILES, SIGNED.model_copy(update={"who": "X"})),
                        Ed25519PrivateKey.generate())  # fmt: skip
            real = json.loads(files["manifest.json"])
            body = json.loads(mine.model_dump_json()) | {"public_key": real["public_key"]}
            files["manifest.json"] = json.dumps(body).encode()

        self.assertIn("signature", " ".join(verify_bundle(repacked(forged)).problems))

    def test_hostile_zips_are_refused(self):
        def of(name, data=b"x"):
            return repacked(lambda f: f.update({name: data}))

        bomb = io.BytesIO()
        with zipfile.ZipFile(bomb, "w", zipfile.ZIP_DEFLATED) as new:
            new.writestr("manifest.json", b"{}")
            new.writestr("report.pdf", b"0" * 60_000_000)
        twice = io.BytesIO()
        with zipfile.ZipFile(twice, "w") as new:
            for _ in range(2):
                with self.assertWarns(UserWarning) if _ else _nothing():
                    new.writestr("job.json", b"{}")
        for data, words in (
            (b"", "no bundle"), (b"PK\x03\x04nonsense", "no bundle"), (sealed()[:-40], ""),
            (of("../../etc/passwd"), "does not belong"), (of("/job.json"), "does not belong"),
            (of("photos/x.jpg"), "does not belong"), (of("drawings/../a.svg"), "does not belong"),
            (bomb.getvalue(), "far more"), (twice.getvalue(), "one name"),
            (repacked(lambda f: f.pop("manifest.json")), "no manifest"),
            (repacked(lambda f: f.update({"manifest.json": b"[]"})), "cannot be read"),
            (repacked(lambda f: f.update({f"photos/{n:064x}.jpg": b"" for n in range(1001)})),
             "at most"),
        ):  # fmt: skip
            with self.subTest(words), self.assertRaises(BadInput) as caught:
                open_bundle(data)
            self.assertIn(words, caught.exception.sentence)

    def test_the_command_line_says_it_and_its_code(self):
        with tempfile.TemporaryDirectory() as folder:
            file = Path(folder) / "b.zip"
            file.write_bytes(sealed())
            mine = fingerprint(KEY.public_key().public_bytes_raw().hex())
            code, out, _ = run("verify", str(file))
            self.assertEqual(code, 3)
            self.assertIn("UNKNOWN", out)
            self.assertIn(mine, out)
            for said in (mine, mine.replace(" ", "").upper(), mine.replace(" ", ":")):
                code, out, _ = run("verify", str(file), "--key", said)
                self.assertEqual(code, 0, said)
                self.assertIn("Key: the one that was asked for", out)
            self.assertEqual(run("verify", str(file), "--key", "ab" * 32)[0], 4)
            self.assertEqual(run("verify", str(file), "--key", "ab")[0], 2)
            file.write_bytes(repacked(lambda f: f.update({"job.json": b"{}"})))
            code, out, _ = run("verify", str(file), "--json")
            self.assertEqual(code, 1)
            self.assertIn("job.json was changed", out)
            self.assertEqual(run("verify", str(Path(folder) / "none.zip"))[0], 2)


class Carrier(unittest.TestCase):
    def test_no_byte_of_the_file_changes_unseen(self):
        data = sealed()
        for at in range(len(data)):
            for by in (1, 128):
                flipped = bytearray(data)
                flipped[at] ^= by
                self.assertFalse(_passes(bytes(flipped)), at)

    def test_nothing_passes_before_behind_or_between(self):
        data = sealed()
        half = data.index(b"job.json") - 30
        for other in (data + b"\0", b"#!/bin/sh\n" + data, data + data,
                      data[:half] + b"x" + data[half:]):  # fmt: skip
            self.assertFalse(_passes(other))
        commented = io.BytesIO(data)
        with zipfile.ZipFile(commented, "a") as old:
            old.comment = b"hello"
        self.assertFalse(_passes(commented.getvalue()))
        self.assertFalse(_passes(repacked(lambda files: None)))  # other dates, the same content

    def test_a_packed_bundle_of_before_still_passes(self):
        manifest, files = open_bundle(sealed())
        self.assertTrue(_passes(write_bundle(manifest, files, zipfile.ZIP_DEFLATED)))


def _passes(data: bytes) -> bool:
    try:
        return verify_bundle(data).is_whole
    except BadInput:
        return False


class Keys(unittest.TestCase):
    #: The encodings under which a signature of zeros may hold for anything, and y spelled over p.
    SMALL = ("00" * 32, "01" + "00" * 31, "ec" + "ff" * 30 + "7f",
             "c7176a703d4dd84fba3c0b760d10670f2a2053fa2c39ccc64ec7fd7792ac037a",
             "26e8958fc2b227b045c3f489f2ef98f0d5dfac05d3c63339b13802886d53fc05",
             "c7176a703d4dd84fba3c0b760d10670f2a2053fa2c39ccc64ec7fd7792ac03fa",
             "26e8958fc2b227b045c3f489f2ef98f0d5dfac05d3c63339b13802886d53fc85",
             "00" * 31 + "80", "01" + "00" * 30 + "80", "ec" + "ff" * 31)  # fmt: skip
    OTHERWISE = ("ed" + "ff" * 30 + "7f", "ee" + "ff" * 31, "ff" * 32)

    def test_weak_keys_and_other_spellings_are_refused(self):
        for public in (*self.SMALL, *self.OTHERWISE, "AB" * 32, "ab", ""):
            self.assertTrue(weak(public), public)
        self.assertEqual(weak(KEY.public_key().public_bytes_raw().hex()), "")

    def test_a_bundle_by_such_a_key_is_never_whole(self):
        good = seal(manifest_of("Pebblewick", FILES, SIGNED), KEY)
        for public in (*self.SMALL, *self.OTHERWISE):
            for signature in ("00" * 64, public + "00" * 32):
                forged = good.model_copy(update={"public_key": public, "signature": signature})
                found = verify_bundle(write_bundle(forged, FILES))
                self.assertFalse(found.is_whole, public)

    def test_whose_it_is_by_its_time(self):
        public = KEY.public_key().public_bytes_raw().hex()
        day = datetime(2026, 11, 1, tzinfo=UTC)
        before, after = "2026-10-01T08:00:00+00:00", "2026-11-27T03:00:00+00:00"
        for key, at, expected in (
            (KnownKey(public, is_ours=True), after, Whose.OURS),
            (KnownKey(public, "Finch Electric"), after, Whose.KNOWN),
            (KnownKey("ab" * 32), after, Whose.UNKNOWN),
            (KnownKey(public, is_ours=True, until=day), before, Whose.OURS),
            (KnownKey(public, is_ours=True, until=day), after, Whose.LOST),
            (KnownKey(public, is_ours=True, lost=day), before, Whose.OURS),
            (KnownKey(public, is_ours=True, lost=day), after, Whose.LOST),
            (KnownKey(public, is_ours=True, lost=day), "yesterday", Whose.LOST),
        ):
            self.assertEqual(whose(public, at, [key])[0], expected, (key, at))


class _nothing:
    def __enter__(self):
        return self

    def __exit__(self, *_):
        return False
