"""Holding a page against axe-core (WCAG 2.2 AA)."""

from pathlib import Path

from tests.browser.browser_case import BrowserCase

AXE = Path(__file__).parents[2] / "web/node_modules/axe-core/axe.min.js"
RUN = """async (only) => {
  // A patch or square is named with more words than the figure drawn on it; the rule is still an experiment of axe's.
  const rules = { 'label-content-name-mismatch': { enabled: false } }
  const runOnly = only ?? ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa']
  const found = await axe.run(document, { runOnly, rules, resultTypes: ['violations'] })
  return found.violations.map((one) => [one.id, one.nodes.slice(0, 3).map((node) => node.html.slice(0, 160)
    + ' ' + (node.any[0]?.message ?? ''))])
}"""


class AxeCase(BrowserCase):
    """A browser case whose pages can be checked."""

    def check(self, page, label, only=None):
        page.add_script_tag(content=AXE.read_text())
        # Fading in counts as low contrast while it lasts.
        page.wait_for_timeout(350)
        for rule, nodes in page.evaluate(RUN, only):
            with self.subTest(f"{label}: {rule}"):
                self.fail("\n".join(nodes))

    def open_page(self, *args, **kwargs):
        page = super().open_page(*args, **kwargs)
        # The page's own policy allows no foreign scripts, so axe is let in beside it.
        page.context.new_cdp_session(page).send("Page.setBypassCSP", {"enabled": True})
        return page

    def check_both_themes(self, page, label):
        """All rules as it is, and the contrasts in the dark too."""
        self.check(page, label)
        page.evaluate("document.documentElement.classList.add('dark')")
        self.check(page, f"dark {label}", ["color-contrast"])
        page.evaluate("document.documentElement.classList.remove('dark')")
