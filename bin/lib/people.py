#!/usr/bin/python3
"""The people of Skerry Line, a made-up ferry operator: the same ones every time.

Prints JSON: people, with the accounts that each has. Phone numbers are from ranges reserved for fiction, addresses are
under .test.
"""
import json
import os
import sys
import unicodedata

GIVEN = """Astrid Birger Calum Dagny Eilidh Finlay Greta Hamish Ingrid Jonas Kirsten Lachlan Maren Niall Oda Petra Rasmus
Signe Torquil Una Vidar Wenche Yngve Aila Brodie Catriona Didrik Elspeth Fergus Gunnar Hedda Iain Jorunn Kenna Leif Mhairi
Nils Orla Per Ragna""".split()
SURNAME = """Nordvik Mackay Solberg Rennie Haugen Drummond Lunde Innes Brekke Sinclair Fjeld Munro Strand Galbraith Moen
Lindqvist Tulloch Vestby Isbister Hestnes Rendall Aune Flett Kolstad Linklater Nygaard Foubister Ulvik Harcus Berg Scollay
Tveit Drever Sandvik Heddle Myhre Leask Ness Wick Holm""".split()

# department, OU, how many, employee type, whether they have an account in fleet
CROWD = [
    ("Deck", "Deck", 110, "permanent", True),
    ("Engine", "Engine", 55, "permanent", True),
    ("Bridge", "Bridge", 30, "permanent", True),
    ("Terminals", "Terminals", 80, "permanent", False),
    ("Office", "Office", 70, "permanent", False),
    ("Agency", "Agency", 40, "seasonal", True),
]


def plain(text):
    greek = str.maketrans("αβγδεζηθικλμνξοπρστυφχψως", "avgdeziuiklmnxoprstufxyos")
    low = "".join(c for c in unicodedata.normalize("NFD", text.lower()) if unicodedata.category(c) != "Mn")
    low = low.translate(greek).replace("ø", "o").replace("æ", "ae").replace("å", "a")
    return "".join(c for c in low if c.isascii() and c.isalnum())


def person(number, given, surname, department, ou, kind, fleet, **more):
    login = f"{plain(given)}.{plain(surname)}"[:20]
    one = {
        "number": str(20000 + number), "given": given, "surname": surname, "name": f"{given} {surname}",
        "department": department, "ou": ou, "type": kind, "login": login,
        "mail": f"{login}@mail.skerry.test", "mobile": f"+44 7700 900{number % 1000:03d}",
        "fleet": f"{plain(given)[0]}{plain(surname)}{number}"[:20] if fleet else None,
        "locked": False, "disabled": False, "groups": [],
    }
    one.update(more)
    return one


def people():
    awkward = [
        person(1, "Astrid", "Nordvik", "Deck", "Deck", "permanent", True, groups=["Deck Cadets"]),
        person(2, "Liam", "O'Hara", "Deck", "Deck", "permanent", True, groups=["Deck Crew"], locked=True),
        person(3, "Ελένη", "Παππά", "Deck", "Deck", "permanent", True, groups=["Deck Ratings"]),
        person(4, "Øyvind", "Sørås", "Bridge", "Bridge", "permanent", True, groups=["Bridge Officers"]),
        person(5, "Dagny", "Holm", "Deck", "Deck", "permanent", True, groups=["Deck Crew"], disabled=True),
        person(6, "Calum", "Wick", "Deck", "Deck", "permanent", True, groups=["Deck Crew"], mail=None),
        person(7, "Oda", "Leask", "Office", "Office", "permanent", False, groups=["Shore Office"]),
        person(8, "Rasmus", "Lunde", "Deck", "Deck", "seasonal", True, groups=["Agency Crew", "Deck Ratings"],
               mail="rasmus@letterbox.test"),
        person(9, "Hedda", "Berg", "Office", "Administrators", "permanent", False,
               groups=["Directory Administrators", "Deck Crew"]),
        person(10, "Iain", "Rendall", "Office", "Administrators", "permanent", False,
               groups=["Directory Administrators"]),
        person(11, "Signe", "Moen", "Deck", "Deck", "permanent", True, groups=["Deck Crew"]),
        person(12, "Fergus", "Flett", "Deck", "Deck", "permanent", True, groups=["Deck Crew"]),
        person(13, "Maren", "Aune", "Deck", "Deck", "permanent", True, groups=["Deck Crew", "Captains Table"]),
        person(14, "Kenna", "Drever", "Deck", "Deck", "permanent", True, groups=["Deck Crew"]),
        person(15, "Jonas", "Strand", "Deck", "Deck", "permanent", True, groups=["Deck Crew"]),
    ]
    home = {"Deck": "Deck Crew", "Engine": "Engine Crew", "Bridge": "Bridge Officers", "Terminals": "Terminal Staff",
            "Office": "Shore Office", "Agency": "Agency Crew"}
    all_of_them, taken, number, turn = list(awkward), {p["login"] for p in awkward}, 15, 0
    # Tests need more of the crew, each of them once.
    more = ("Deck", "Deck", int(os.environ.get("LAB_MORE_CREW") or 0), "permanent", True)
    for department, ou, count, kind, fleet in CROWD + [more]:
        for _ in range(count):
            while True:
                given, surname = GIVEN[turn % len(GIVEN)], SURNAME[(turn // len(GIVEN) * 7 + turn * 3) % len(SURNAME)]
                turn += 1
                if f"{plain(given)}.{plain(surname)}"[:20] not in taken:
                    break
            number += 1
            one = person(number, given, surname, department, ou, kind, fleet, groups=[home[department]])
            taken.add(one["login"])
            all_of_them.append(one)
    # The first of each department's crowd leads it.
    leads = {}
    for one in all_of_them[len(awkward):]:
        leads.setdefault(one["department"], one["login"])
    for one in all_of_them:
        lead = leads[one["department"]]
        one["manager"] = None if one["login"] == lead else lead
    return all_of_them


# group -> groups that it is in; Deck Cadets are three deep
NESTING = {
    "Deck Crew": [], "Deck Ratings": ["Deck Crew"], "Deck Cadets": ["Deck Ratings"], "Engine Crew": [],
    "Bridge Officers": [], "Terminal Staff": [], "Shore Office": [], "Agency Crew": [], "Directory Administrators": [],
    # Two groups that contain each other, as happens.
    "Captains Table": ["Galley Guests"], "Galley Guests": ["Captains Table"],
}

if __name__ == "__main__":
    json.dump({"people": people(), "nesting": NESTING}, sys.stdout, ensure_ascii=False, indent=1)
