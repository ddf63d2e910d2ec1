"""A guide goes from shop to shop as one file: looked at first, nothing overwritten without being asked."""

import io
import json
import os
import random
import zipfile
from hashlib import sha256
from pathlib import Path
from uuid import uuid4

import jsonschema
import numpy as np
from django.contrib.auth.models import Permission
from django.db import transaction
from django.test import TestCase
from django.urls import reverse
from PIL import Image

import reports
from assay.errors import AssayError
from casework.actions.guide_file import export_guide, import_guide, preview_guide, read_guide
from casework.actions.start_case import start_case
from library.models import Checkpoint, Maker
from pairs.actions.receive_photo import receive_photo
from pairs.models import Marking, Pair, Standing
from tests.support.scenes import small_organisation


def jpeg(seed: int) -> bytes:
    target = io.BytesIO()
    noise = np.random.default_rng(seed).integers(0, 255, (600, 800, 3), np.uint8)
    Image.fromarray(noise).save(target, "JPEG")
    return target.getvalue()


def packed(files: dict[str, bytes], *, sums: bool = True) -> bytes:
    target = io.BytesIO()
    with zipfile.ZipFile(target, "w", zipfile.ZIP_DEFLATED) as bag:
        for name, data in files.items():
            bag.writestr(name, data)
        if sums:
            lines = "".join(f"{sha256(data).hexdigest()}  {name}\n" for name, data in files.items())
            bag.writestr("manifest-sha256.txt", lines)
    return target.getvalue()


ODD = (
    *(None, True, -1, 0, 1e308, 10**30, 3.5, "", "x" * 300, "\ud800", "<b>", "²"),
    *([], [1], ["x"], [[1, "x"]], {}, {"a": 1}, [None]),
)
OF_RELEASE = (
    *("library-release", "library-guide", "guide-questions", "library-sheet", "library-packing", "library-guide-file"),
    "library-release-facts",
)


def places(thing, path=()):
    """Paths of everything in a document."""
    yield path
    inner = thing.items() if isinstance(thing, dict) else enumerate(thing) if isinstance(thing, list) else ()
    for key, value in inner:
        yield from places(value, (*path, key))


class GuideFile(TestCase):
    def setUp(self):
        self.scene = small_organisation()
        rights = Permission.objects.filter(codename__in=("add_checkpoint", "change_maker"))
        for user in (self.scene.mara, self.scene.stranger):
            user.user_permissions.add(*rights)
        first = self.scene.organisation.pairs.get(label="R1")
        photo = receive_photo(pair=first, data=jpeg(1), by=self.scene.mara, view="side_out", foot="left")
        photo.state = "read"
        photo.save()
        bar = self.scene.release.checkpoints.get(key="bar")
        Marking.objects.create(checkpoint=bar, photo=photo, points=[[5, 5], [80, 60]], origin="drawn")
        self.data = export_guide(release=self.scene.release, organisation=self.scene.organisation)
        self.elsewhere = {"organisation": self.scene.stranger.organisations.get(), "user": self.scene.stranger}

    def refused(self, reason: str, data: bytes):
        with self.assertRaises(AssayError) as caught:
            import_guide(**self.elsewhere, data=data, overwrite=set())
        self.assertEqual(caught.exception.reason, reason)
        return caught.exception.numbers.get("what", "")

    def changed(self, change) -> bytes:
        document, files = read_guide(self.data)
        change(document)
        return packed({"guide.json": json.dumps(document).encode(), **files})

    def test_the_file_follows_the_published_schema(self):
        schema = json.loads((Path(reports.__file__).parent / "schema" / "guide-1.schema.json").read_text())
        jsonschema.Draft202012Validator.check_schema(schema)
        document, _ = read_guide(self.data)
        jsonschema.validate(document, schema, cls=jsonschema.Draft202012Validator)

    def test_a_guide_arrives_whole_and_its_pairs_as_candidates(self):
        found = preview_guide(**self.elsewhere, data=self.data)
        self.assertEqual((found.same, found.new, found.changed), (4, [], []))
        self.assertEqual([pair["known"] for pair in found.pairs], [False] * 3)
        import_guide(**self.elsewhere, data=self.data, overwrite=set())
        pairs = Pair.objects.filter(organisation=self.elsewhere["organisation"])
        self.assertEqual({pair.standing for pair in pairs}, {Standing.CANDIDATE})
        marked = pairs.get(photos__isnull=False)
        self.assertEqual(marked.photos.get().markings.get().points, [[5, 5], [80, 60]])
        self.assertEqual(marked.readings.get(checkpoint__key="smell").value, "faint")
        again = preview_guide(**self.elsewhere, data=self.data)
        self.assertEqual(sum(pair["known"] for pair in again.pairs), 1)

    def test_nothing_is_overwritten_without_being_asked_and_another_thing_never(self):
        Checkpoint.objects.filter(key="smell").update(instruction="Sniff briefly.")
        Checkpoint.objects.filter(key="bar").update(kind="continuous")
        found = preview_guide(**self.elsewhere, data=self.data)
        self.assertEqual([(one["key"], one["fields"]) for one in found.changed], [("smell", "instruction")])
        self.assertEqual(len(found.clashing), 1)
        import_guide(**self.elsewhere, data=self.data, overwrite=set())
        self.assertEqual(Checkpoint.objects.get(key="smell").instruction, "Sniff briefly.")
        import_guide(**self.elsewhere, data=self.data, overwrite={"smell", "bar"})
        self.assertNotEqual(Checkpoint.objects.get(key="smell").instruction, "Sniff briefly.")
        self.assertEqual(Checkpoint.objects.get(key="bar").kind, "continuous")

    def test_another_shop_s_guide_gets_no_check_by_a_file_and_a_private_one_is_not_told_of(self):
        def more(document):
            document["checks"][0] |= {"key": "planted", "name": "Planted", "position": 900}

        self.scene.release.organisation = self.scene.organisation
        self.scene.release.save()
        self.refused("others_release", self.changed(more))
        self.assertFalse(Checkpoint.objects.filter(key="planted").exists())
        import_guide(**self.elsewhere, data=self.data, overwrite=set())
        self.scene.organisation.private = True
        self.scene.organisation.save()
        self.assertIsNone(preview_guide(**self.elsewhere, data=self.data).release)

    def test_a_new_release_and_a_new_maker_come_with_it(self):
        def other(document):
            document["release"] |= {"style_code": "305518-402", "colourway": "Ferry Rust"}
            document["maker"] |= {"name": "Oskpell", "style_code_mask": "999999-999"}

        release = import_guide(**self.elsewhere, data=self.changed(other), overwrite=set())
        self.assertEqual(
            (release.shoe_model.maker, release.checkpoints.count()), (Maker.objects.get(name="Oskpell"), 4)
        )

    def test_what_is_no_guide_is_refused_in_words_and_nothing_is_kept(self):
        _, files = read_guide(self.data)
        good = {"guide.json": zipfile.ZipFile(io.BytesIO(self.data)).read("guide.json"), **files}
        self.assertIn("no ZIP", self.refused("bad_guide_file", self.data[: len(self.data) // 2]))
        self.assertIn("no place", self.refused("bad_guide_file", packed(good | {"../../etc/cron": b"x"})))
        self.assertIn("differ", self.refused("bad_guide_file", packed(good, sums=False)))
        photo = next(iter(files))
        with zipfile.ZipFile(io.BytesIO(self.data)) as bag:
            all_files = {name: bag.read(name) for name in bag.namelist()}
        target = io.BytesIO()
        with zipfile.ZipFile(target, "w") as bag:
            for name, data in all_files.items():
                bag.writestr(name, data[:-1] + b"?" if name == photo else data)
        self.assertIn("changed since", self.refused("bad_guide_file", target.getvalue()))
        self.refused("newer_guide_file", self.changed(lambda one: one.update(format="wahrheit-guide/2")))
        huge = packed({"guide.json": b" " * 450_000_000}, sums=False)
        self.assertIn("larger", self.refused("bad_guide_file", huge))
        self.assertEqual(Pair.objects.filter(organisation=self.elsewhere["organisation"]).count(), 0)

    def test_a_check_whose_numbers_the_judging_would_refuse_is_refused_at_the_door(self):
        for wrong in (
            {"cap_against": 1e308},
            {"cap_for": -1},
            {"minutes": 1e6},
            {"minutes": 0},
            {"prior": {"pairs": -1}},
            {"prior": {"scatter": 1e999}},
            {"measure": "seam", "quantity": "no_such_number"},
        ):
            with self.subTest(wrong):
                other = {"style_code": "VQ-44127-C", "colourway": "Ferry Rust"}

                def change(document, wrong=wrong, other=other):
                    document["release"] |= other
                    next(one for one in document["checks"] if one["key"] == "bar").update(wrong)

                self.refused("bad_guide_file", self.changed(change))
                self.assertFalse(Checkpoint.every.filter(release__style_code=other["style_code"]).exists())

    def test_whatever_is_put_in_its_place_the_importer_says_no_or_takes_it_in(self):
        """Values of the wrong kind at random places: never another error, never half a guide."""
        rng = random.Random(7)
        odd = (None, -1, 1e308, "x" * 500, [], {}, [[1]], True, "\x00", float("1e-300"))
        for _ in range(120):
            document, files = read_guide(self.data)
            place = document
            while True:
                key = rng.choice(list(place) if isinstance(place, dict) else range(len(place)))
                if isinstance(place[key], dict | list) and place[key] and rng.random() < 0.85:
                    place = place[key]
                    continue
                place[key] = rng.choice(odd)
                break
            data = packed({"guide.json": json.dumps(document).encode(), **files})
            before = Pair.objects.filter(organisation=self.elsewhere["organisation"]).count()
            try:
                import_guide(**self.elsewhere, data=data, overwrite={"smell", "bar", "touch", "style-code"})
            except AssayError:
                self.assertEqual(Pair.objects.filter(organisation=self.elsewhere["organisation"]).count(), before)

    def test_on_screen_it_is_looked_at_first(self):
        self.client.force_login(self.scene.stranger)
        send = {"file": io.BytesIO(self.data)}
        page = self.client.post(reverse("library-take-in"), send)
        self.assertContains(page, '<b class="mono">0</b> new')
        kept = page.content.decode().split('name="kept" value="')[1].split('"')[0]
        self.assertEqual(Pair.objects.filter(organisation=self.elsewhere["organisation"]).count(), 0)
        self.assertEqual(self.client.post(reverse("library-take-in"), {"kept": kept}).status_code, 302)
        gone = self.client.post(reverse("library-take-in"), {"kept": kept})
        self.assertContains(gone, "too long ago", status_code=422)
        self.assertContains(self.client.post(reverse("library-take-in"), {"kept": "../x"}), "too long", status_code=422)
        self.client.force_login(self.scene.jory)
        refused = self.client.post(reverse("library-take-in"), {"file": io.BytesIO(self.data)})
        self.assertContains(refused, "Only a guide writer", status_code=422)

    def odd(self, rng) -> tuple[bytes, str]:
        document, files = read_guide(self.data)
        # A release and checks of its own: nothing is known of them yet.
        document["release"] |= {"style_code": "305518-402", "colourway": "Ferry Rust"}
        document["maker"] |= {"name": "Oskpell", "style_code_mask": "999999-999"}
        path = rng.choice([place for place in places(document) if place])
        inner = document
        for key in path[:-1]:
            inner = inner[key]
        inner[path[-1]] = value = rng.choice(ODD)
        text = json.dumps(document, ensure_ascii=True).encode()
        return packed({"guide.json": text, **files}), f"{path} = {value!r}"[:150]

    def test_a_file_with_one_odd_value_is_refused_in_words_or_every_page_of_its_release_answers(self):
        rng, failures, taken = random.Random(int(os.environ.get("GUIDE_SEED", "3"))), [], 0
        self.client.raise_request_exception = False
        self.client.force_login(self.scene.stranger)
        for _ in range(int(os.environ.get("ABUSE_GUIDES", "25"))):
            data, told = self.odd(rng)
            sid = transaction.savepoint()
            try:
                release = import_guide(**self.elsewhere, data=data, overwrite=set())
            except AssayError:
                transaction.savepoint_rollback(sid)
                continue
            except Exception as error:  # noqa: BLE001 - that is what is looked for
                failures.append(f"{told}: {error!r}")
                transaction.savepoint_rollback(sid)
                continue
            taken += 1
            failures += [f"{told}: {page}" for page in self.broken(release)]
            transaction.savepoint_rollback(sid)
        self.assertEqual("\n".join(failures), "")
        self.assertGreater(taken, 0)

    def broken(self, release) -> list[str]:
        check = release.own_checkpoints.first()
        urls = [reverse(name, args=[release.pk]) for name in OF_RELEASE]
        urls += [reverse("library"), reverse("guides"), reverse("counter"), reverse("kit-sizes")]
        urls += [reverse("library-check", args=[check.pk])] if check else []
        for pair in Pair.objects.filter(release=release):
            urls.append(reverse("library-pair", args=[pair.pk]))
            Pair.objects.filter(pk=pair.pk).update(standing=Standing.RETAIL)
        found = [url for url in urls if self.client.get(url).status_code >= 500]
        try:
            case = start_case(user=self.scene.stranger, typed_code=release.style_code, token=uuid4())
        except AssayError:
            return found
        urls = [reverse(name, args=[case.number]) for name in ("intake", "bench", "verdict", "case-json")]
        urls += [reverse("bench-at", args=[case.number, checkpoint.key]) for checkpoint in release.checkpoints.all()]
        return found + [url for url in urls if self.client.get(url).status_code >= 500]
