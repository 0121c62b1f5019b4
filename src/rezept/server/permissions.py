"""Which role each route asks for: one table, enforced before every request and walked by a test.

The actions ask again where a role decides about more than the route, such as who marks a recipe as proven.
"""

from __future__ import annotations

from flask import Flask, request
from werkzeug.exceptions import HTTPException

from rezept.actions.members import require
from rezept.server.here import me

ANYONE = "anyone"

# (method, rule): the least role, and what the route does in the words of "to ..., ask a technician".
ROUTES: dict[tuple[str, str], tuple[str, str]] = {
    ("GET", "/"): (ANYONE, "open the app"),
    ("GET", "/<path:place>"): (ANYONE, "open the app"),
    ("GET", "/assets/<path:name>"): (ANYONE, "open the app"),
    ("GET", "/api/door"): (ANYONE, "see the door"),
    ("POST", "/api/door/found"): (ANYONE, "found the shop"),
    ("POST", "/api/door/clear-demo"): ("keeper", "clear the demo shop"),
    ("POST", "/api/session"): (ANYONE, "sign in"),
    ("DELETE", "/api/session"): ("guest", "sign out"),
    ("GET", "/api/me"): ("guest", "see who I am"),
    ("PUT", "/api/me"): ("guest", "pick who I am"),
    ("PUT", "/api/me/secret"): ("guest", "change my passphrase"),
    ("GET", "/api/me/data"): ("guest", "see what is kept of me"),
    ("GET", "/api/members/<int:id>/data"): ("keeper", "see what is kept of others"),
    ("DELETE", "/api/members/<int:id>"): ("keeper", "remove members"),
    ("GET", "/api/me/sessions"): ("guest", "see where I am signed in"),
    ("DELETE", "/api/me/sessions/<int:id>"): ("guest", "sign my devices out"),
    ("DELETE", "/api/members/<int:id>/sessions"): ("keeper", "sign others out"),
    ("POST", "/api/members"): ("keeper", "add members"),
    ("PUT", "/api/members/<int:id>"): ("keeper", "change members"),
    ("PUT", "/api/members/<int:id>/secret"): ("keeper", "give out passphrases"),
    ("GET", "/api/shop"): ("guest", "see the shop"),
    ("PUT", "/api/shop/address"): ("keeper", "say where the shop is reached"),
    ("GET", "/api/backup"): ("keeper", "look after backups"),
    ("POST", "/api/backup"): ("keeper", "look after backups"),
    ("POST", "/api/machines"): ("technician", "add machines"),
    ("PUT", "/api/machines/<int:id>"): ("technician", "change machines"),
    ("POST", "/api/heads"): ("technician", "add heads"),
    ("PUT", "/api/heads/<int:id>"): ("technician", "change heads"),
    ("POST", "/api/materials"): ("technician", "add materials"),
    ("PUT", "/api/materials/<int:id>"): ("technician", "change materials"),
    ("POST", "/api/lots"): ("member", "add lots"),
    ("PUT", "/api/lots/<int:id>"): ("member", "change lots"),
    ("POST", "/api/pieces"): ("member", "add pieces"),
    ("PUT", "/api/pieces/<int:id>"): ("member", "change pieces"),
    ("GET", "/api/changes"): ("guest", "see who did what"),
    ("GET", "/api/changes/stream"): ("guest", "follow what others do"),
    ("POST", "/api/changes/<int:id>/take-back"): ("member", "take changes back"),
    ("POST", "/api/figures"): ("member", "bring figures"),
    ("GET", "/api/kept-figures"): ("guest", "see kept figures"),
    ("POST", "/api/kept-figures"): ("member", "keep figures"),
    ("GET", "/api/kept-figures/<int:id>"): ("guest", "see kept figures"),
    ("GET", "/api/kept-figures/<int:id>/file"): ("guest", "get kept figures"),
    ("DELETE", "/api/kept-figures/<int:id>"): ("member", "keep figures"),
    ("GET", "/api/trials"): ("guest", "see trials"),
    ("POST", "/api/trials"): ("member", "plan arrays"),
    ("GET", "/api/trials/<int:id>"): ("guest", "see trials"),
    ("PUT", "/api/trials/<int:id>/shelf"): ("member", "plan arrays"),
    ("GET", "/api/trials/<int:id>/next-coupon"): ("guest", "see what a plate means"),
    ("POST", "/api/trials/<int:id>/coupons"): ("member", "plan arrays"),
    ("POST", "/api/trials/<int:id>/preview"): ("member", "see what a design gives"),
    ("PUT", "/api/trials/<int:id>/design"): ("member", "plan arrays"),
    ("POST", "/api/trials/<int:id>/files"): ("member", "get files and burn"),
    ("GET", "/api/trials/<int:id>/revisions/<int:revision>/files/<string:kind>"): ("guest", "get files"),
    ("POST", "/api/trials/<int:id>/burns"): ("member", "burn"),
    ("POST", "/api/trials/<int:id>/live"): ("member", "burn"),
    ("POST", "/api/burns/<int:id>/rest"): ("member", "burn"),
    ("POST", "/api/burns/<int:id>/again"): ("member", "burn"),
    ("GET", "/api/live"): ("guest", "watch burns"),
    ("POST", "/api/live/<string:key>/hold"): ("member", "hold a burn"),
    ("POST", "/api/live/<string:key>/stop"): ("member", "stop a burn"),
    ("POST", "/api/live/<string:key>/go-on"): ("member", "burn"),
    ("POST", "/api/live/<string:key>/turned"): ("member", "burn"),
    ("POST", "/api/trials/<int:id>/by-clock"): ("member", "burn"),
    ("POST", "/api/burns/<int:id>/clock"): ("member", "keep the burn log"),
    ("POST", "/api/burns/<int:id>/clock/turned"): ("member", "burn"),
    ("POST", "/api/burns/<int:id>/clock/corrected"): ("member", "keep the burn log"),
    ("POST", "/api/burns/<int:id>/clock/ended"): ("member", "burn"),
    ("POST", "/api/live/<string:key>/correction"): ("member", "burn"),
    ("POST", "/api/live/<string:key>/nudge"): ("member", "burn"),
    ("POST", "/api/trials/<int:id>/zero-here"): ("member", "burn"),
    ("POST", "/api/live/<string:key>/control"): ("member", "burn"),
    ("POST", "/api/burns/<int:id>/remarks"): ("member", "keep the burn log"),
    ("DELETE", "/api/remarks/<int:id>"): ("member", "keep the burn log"),
    ("PUT", "/api/burns/<int:id>/patches/<string:patch>/not-burned"): ("member", "keep the burn log"),
    ("PUT", "/api/burns/<int:id>/patches/<string:patch>/reading"): ("member", "score"),
    ("PUT", "/api/burns/<int:id>"): ("member", "burn"),
    ("PUT", "/api/burns/<int:id>/treatment"): ("member", "score"),
    ("DELETE", "/api/burns/<int:id>"): ("member", "burn"),
    ("GET", "/api/burns/<int:id>"): ("guest", "compare plates"),
    ("GET", "/api/burns/<int:id>/comparable"): ("guest", "compare plates"),
    ("GET", "/api/burns/<int:id>/decision"): ("guest", "see margins"),
    ("GET", "/api/burns/<int:id>/readings-file"): ("guest", "get what was read"),
    ("GET", "/api/burns/<int:id>/finding"): ("guest", "see what a plate means"),
    ("GET", "/api/arrays"): ("guest", "see kept arrays"),
    ("POST", "/api/arrays"): ("member", "keep arrays"),
    ("POST", "/api/arrays/file"): ("member", "keep arrays"),
    ("GET", "/api/arrays/<int:id>/file"): ("guest", "get kept arrays"),
    ("POST", "/api/arrays/<int:id>/design"): ("member", "see what a kept array gives"),
    ("DELETE", "/api/arrays/<int:id>"): ("member", "keep arrays"),
    ("POST", "/api/burns/<int:id>/finer"): ("member", "plan arrays"),
    ("POST", "/api/burns/<int:id>/next"): ("member", "plan arrays"),
    ("POST", "/api/burns/<int:id>/proof"): ("member", "plan arrays"),
    ("POST", "/api/burns/<int:id>/more-passes"): ("member", "plan arrays"),
    ("POST", "/api/recipes/<int:id>/kerf"): ("member", "plan arrays"),
    ("POST", "/api/recipes/<int:id>/proof"): ("member", "plan arrays"),
    ("POST", "/api/burns/<int:id>/candidates"): ("member", "keep recipes"),
    ("POST", "/api/burns/<int:id>/patches/<string:patch>/around"): ("member", "plan arrays"),
    ("PUT", "/api/burns/<int:id>/photos/<string:face>"): ("member", "add photos"),
    ("PUT", "/api/burns/<int:id>/readings"): ("member", "score"),
    ("GET", "/api/burns/<int:id>/measured"): ("guest", "see what photos show"),
    ("POST", "/api/photos"): ("member", "add photos"),
    ("POST", "/api/burns/<int:id>/parts/<string:patch>/photos"): ("member", "add photos"),
    ("PUT", "/api/part-photos/<int:id>"): ("member", "change photos"),
    ("POST", "/api/pieces/outline"): ("member", "add pieces"),
    ("PUT", "/api/plate-photos/<int:id>"): ("member", "change photos"),
    ("PUT", "/api/plate-photos/<int:id>/corners"): ("member", "change photos"),
    ("GET", "/api/plate-photos/<int:id>/upright"): ("guest", "see photos"),
    ("GET", "/api/plate-photos/<int:id>/flat"): ("guest", "see photos"),
    ("GET", "/api/looks"): ("guest", "choose by look"),
    ("GET", "/api/jobs"): ("guest", "see what is worked on"),
    ("GET", "/api/jobs/<int:id>"): ("guest", "see what is worked on"),
    ("DELETE", "/api/jobs/<int:id>"): ("guest", "end what I began"),
    ("GET", "/api/photos/<string:sha256>"): ("guest", "see photos"),
    ("GET", "/api/ask"): ("guest", "ask"),
    ("GET", "/api/machines/<int:id>/wall"): ("guest", "read the book"),
    ("GET", "/api/reference-card"): ("guest", "print the reference card"),
    ("GET", "/api/qr"): ("guest", "print cards"),
    ("GET", "/api/map"): ("guest", "read the book"),
    ("PUT", "/api/map/not-working"): ("technician", "say what does not work"),
    ("POST", "/api/recipes/written-down"): ("member", "keep recipes"),
    ("POST", "/api/recipes/<int:id>/restore"): ("member", "change recipes"),
    ("POST", "/api/recipes/<int:id>/confirmations"): ("member", "confirm recipes"),
    ("DELETE", "/api/confirmations/<int:id>"): ("member", "take back what I said"),
    ("GET", "/api/failed-settings"): ("guest", "read the book"),
    ("POST", "/api/failed-settings"): ("member", "keep what failed"),
    ("DELETE", "/api/failed-settings/<int:id>"): ("member", "take back what I kept"),
    ("GET", "/api/trials/<int:id>/first-axis"): ("member", "plan arrays"),
    ("GET", "/api/trials/<int:id>/first-step"): ("member", "plan arrays"),
    ("GET", "/api/recipes"): ("guest", "read the book"),
    ("POST", "/api/recipes"): ("member", "keep recipes"),
    ("GET", "/api/recipes/<int:id>"): ("guest", "read the book"),
    ("PUT", "/api/recipes/<int:id>"): ("member", "change recipes"),
}


def unlisted(app: Flask) -> list[tuple[str, str]]:
    """Routes of the app that the table does not name."""
    routes = {
        (method, rule.rule)
        for rule in app.url_map.iter_rules()
        for method in (rule.methods or set()) - {"HEAD", "OPTIONS"}
        if not rule.rule.startswith("/openapi")
    }
    return sorted(routes - set(ROUTES))


def register(app: Flask) -> None:
    @app.before_request
    def check_role() -> None:
        if isinstance(request.routing_exception, HTTPException) or request.url_rule is None:
            return
        method = "GET" if request.method == "HEAD" else request.method
        rule = request.url_rule.rule
        if method == "OPTIONS" or rule.startswith("/openapi"):
            return
        least, what = ROUTES[method, rule]
        if least != ANYONE:
            require(me(), least, what)
