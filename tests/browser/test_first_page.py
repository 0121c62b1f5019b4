"""What a browser fetches for the first page, and what waits until it is needed."""

from tests.browser.browser_case import BrowserCase, settle

MOST_BYTES = 220_000


class FirstPageTest(BrowserCase):
    def scripts(self, path):
        """Name and size, as sent, of every script a fresh browser fetches for a page."""
        context = self.browser.new_context()
        self.addCleanup(context.close)
        page = context.new_page()
        answers = []
        page.on("response", lambda answer: answers.append(answer))
        page.goto(self.server.base + self.server.path(path))
        settle(page)
        found = [answer for answer in answers if answer.url.endswith(".js")]
        return {answer.url.rsplit("/", 1)[-1]: answer.request.sizes()["responseBodySize"] for answer in found}

    def test_the_first_page_is_light_and_brings_no_stage(self):
        scripts = self.scripts("/")
        self.assertGreater(len(scripts), 3)
        self.assertLessEqual(sum(scripts.values()), MOST_BYTES)
        self.assertFalse([name for name in scripts if "Stage" in name or "ShopPage" in name or "BookPage" in name])

    def test_a_stage_comes_alone(self):
        stages = [
            name.split("-")[0] for name in self.scripts("/trials/{trial: Wool felt, cut}/read") if "Stage" in name
        ]
        self.assertEqual(stages, ["ReadStage"])
