"""A guide that drafts itself: from a release's page to checks on the guide, by keys alone."""

from django.test import tag

from library.models import Checkpoint, Release
from tests.browser.demo import DemoInBrowser


@tag("browser")
class DraftedGuide(DemoInBrowser):
    def test_the_second_maker_s_release_is_drafted_and_taken_with_enter(self):
        show, release = self.browser, Release.objects.get(style_code="305518-402")
        before = Checkpoint.objects.filter(release=release).count()
        show.goto(f"{self.live_server_url}/library/releases/{release.pk}/")
        show.click("text=Draft")
        show.wait_for_selector("text=Draft the guide")
        self.keys("Enter")
        show.wait_for_selector(".draft-photo", timeout=120_000)
        many = int(show.inner_text(".difference-list h1").split()[0])
        names = []
        for _ in range(3):
            names.append(show.input_value("[name=name]"))
            with show.expect_navigation():
                self.keys("Enter")
        with show.expect_navigation():
            self.keys("x")
        show.wait_for_selector("text=1 rejected")
        self.assertEqual(int(show.inner_text(".difference-list h1").split()[0]), many - 4)
        made = Checkpoint.objects.filter(release=release, name__in=names)
        self.assertEqual(made.count(), 3)
        self.assertEqual(Checkpoint.objects.filter(release=release).count(), before + 3)
        self.assertTrue(all(check.markings.exists() for check in made))
        print(f"\ndrafted guide: {many} proposed; {self.struck} keys for three checks and one rejection")
