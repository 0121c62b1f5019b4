"""What is kept of a member: shown whole to them, and removed for good when the keeper says so."""

from __future__ import annotations

from typing import Any

from rezept.actions.commands.people import other_keepers
from rezept.actions.members import Member, NotAllowed, require
from rezept.actions.open_shop import Shop
from rezept.core.errors import Refused
from rezept.store import changes, personal, search
from rezept.store import people as people_table
from rezept.store.personal import SOMEBODY


def kept_of(shop: Shop, by: Member, member_id: int) -> dict[str, Any]:
    """Everything the records hold of a member, table by table: rows that refer to them, and sentences that name them.

    Raises
    ------
    NotAllowed : it is somebody else's, and the caller is no keeper
    """
    if by.id != member_id and not by.may("keeper"):
        raise NotAllowed("Everybody sees what is kept of themselves; of others, ask a keeper.", "keeper")
    with shop.database.reading() as db:
        names = personal.names_of(db, member_id)
        return {
            "format": "rezept-personal",
            "version": 1,
            "at": shop.now(),
            "member": personal.about(db, member_id),
            "names": names,
            "rows": personal.rows_of(db, member_id),
            "sentences": personal.sentences_naming(db, names),
            "tries_to_sign_in": personal.tries_of(db, names),
        }


def remove_for_good(shop: Shop, by: Member, member_id: int) -> None:
    """Take a member away truly: what they did stays, done by somebody. Sessions, passphrase and names are gone.

    Backups made before, and the untouched photos they brought, are the keeper's to look after.
    """
    require(by, "keeper", "remove members")
    with shop.database.writing() as db:
        row = people_table.member(db, member_id)
        if row["role"] == "keeper" and not row["retired"] and not other_keepers(db, member_id):
            raise Refused(f"{row['name']} is the only keeper. Make somebody else keeper first.", "role")
        names = personal.names_of(db, member_id)
        personal.unname(db, member_id, names)
        personal.remove(db, member_id, names, shop.now())
        search.index(db, "member", member_id)
        search.forget_words(db, " ".join(names))
        changes.log(db, "member", member_id, "removed", SOMEBODY, by.id, shop.now())
    shop.database.sweep()
