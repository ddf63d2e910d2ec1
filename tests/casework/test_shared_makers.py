"""What several shops work with changes only where one of the others agrees."""

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from django.urls import reverse

from casework.roles import give_role
from library.models import Maker, MakerChange
from pairs.models import Organisation, Pair
from tests.support.scenes import person, small_organisation

CSV = b"group,US,EU\nmen,8,41\nmen,9,42\n"


class SharedMakers(TestCase):
    def setUp(self):
        self.scene = small_organisation()
        give_role(self.scene.mara, "writer")
        self.maker = Maker.objects.get()
        self.client.force_login(self.scene.mara)
        self.url = reverse("library-maker", args=[self.maker.pk])

    def another_shop(self):
        other = Organisation.objects.create(name="Third Pier")
        Pair.objects.create(organisation=other, release=self.scene.release, standing="retail", label="R1")
        writer = person("linnea", other)
        give_role(writer, "writer")
        return writer

    def change(self, order="YMD"):
        page = self.client.get(self.url)
        given = {"name": "Veltrane", "style_code_mask": "AA-99999-A", "date_order": order}
        return self.client.post(self.url, given | {"was": page.context["form"].was}, follow=True)

    def test_its_only_shop_changes_a_maker_at_once(self):
        self.change()
        self.maker.refresh_from_db()
        self.assertEqual((self.maker.date_order, MakerChange.objects.count()), ("YMD", 0))

    def test_where_others_work_with_it_a_change_waits_for_one_of_them(self):
        writer = self.another_shop()
        self.assertContains(self.change(), "Proposed")
        self.maker.refresh_from_db()
        self.assertEqual(self.maker.date_order, "DMY")
        change = MakerChange.objects.get()
        self.assertEqual(change.given, {"date_order": "YMD"})
        agree = reverse("library-maker-change", args=[change.pk, "agree"])
        # Whoever proposed it, and whoever does not work with the maker, cannot agree to it.
        give_role(self.scene.stranger, "writer")
        for user in (self.scene.mara, self.scene.stranger):
            self.client.force_login(user)
            self.client.post(agree)
            change.refresh_from_db()
            self.assertIsNone(change.agreed)
        self.client.force_login(writer)
        self.assertContains(self.client.get(self.url), "Quay Counter proposes: dates on its tags YMD")
        self.client.post(agree)
        self.maker.refresh_from_db()
        self.assertEqual(self.maker.date_order, "YMD")

    def test_a_size_chart_too(self):
        writer = self.another_shop()
        upload = {"maker": self.maker.pk, "chart": SimpleUploadedFile("m.csv", CSV)}
        self.client.post(reverse("kit-sizes"), upload)
        self.assertEqual(self.maker.size_charts.count(), 0)
        self.client.force_login(writer)
        self.client.post(reverse("library-maker-change", args=[MakerChange.objects.get().pk, "agree"]))
        self.assertEqual(self.maker.size_charts.get().group, "men")
