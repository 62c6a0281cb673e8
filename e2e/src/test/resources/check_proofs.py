"""Checks proofs about a record with nothing of Entente: hashes of the standard library, and jose for signatures.

Written from docs/protocol.md and RFC 9162 sections 2.1.3.2 and 2.1.4.2. Usage: check_proofs.py FILE; prints a line for each proof.
"""

import base64
import hashlib
import json
import subprocess
import sys
import tempfile


def sha(*parts):
    return hashlib.sha256(b"".join(parts)).digest()


def node(left, right):
    return sha(b"\x01", left, right)


def signed(checkpoint, key):
    with tempfile.NamedTemporaryFile("w") as text, tempfile.NamedTemporaryFile("w") as jwk:
        text.write(checkpoint)
        text.flush()
        json.dump(key, jwk)
        jwk.flush()
        said = subprocess.run(
            ["jose", "jws", "ver", "-i", text.name, "-k", jwk.name, "-O", "-"], capture_output=True, check=True
        )
    header = checkpoint.split(".")[0]
    assert json.loads(base64.urlsafe_b64decode(header + "=" * (-len(header) % 4)))["typ"] == "entente-checkpoint+jwt"
    return json.loads(said.stdout)


def leaf(event):
    members = {**event, "personal": event["commitments"]}
    del members["commitments"]
    if members.setdefault("v", 1) == 1:
        # Events of before have neither.
        members.pop("kept", None)
        members.pop("reference", None)
    # Names are ASCII and numbers are integers, so this is the canonical form of RFC 8785.
    return sha(b"\x00", json.dumps(members, sort_keys=True, separators=(",", ":"), ensure_ascii=False).encode())


def included(proof, last):
    if proof["seq"] >= last["size"]:
        return False
    fn, sn, r = proof["seq"], last["size"] - 1, leaf(proof["event"])
    for p in map(bytes.fromhex, proof["hashes"]):
        if sn == 0:
            return False
        if fn % 2 == 1 or fn == sn:
            r = node(p, r)
            while fn % 2 == 0 and fn != 0:
                fn, sn = fn >> 1, sn >> 1
        else:
            r = node(r, p)
        fn, sn = fn >> 1, sn >> 1
    for name, value in proof["personal"].items():
        commitment = sha(bytes.fromhex(value["salt"]), name.encode(), b"\x00", value["value"].encode()).hex()
        if proof["event"]["commitments"][name] != commitment:
            return False
    return sn == 0 and r.hex() == last["root"]


def continued(proof, first, second):
    if first["size"] == second["size"]:
        return not proof["hashes"] and first["root"] == second["root"]
    path = [bytes.fromhex(p) for p in proof["hashes"]]
    if first["size"] & (first["size"] - 1) == 0:
        path.insert(0, bytes.fromhex(first["root"]))
    fn, sn = first["size"] - 1, second["size"] - 1
    while fn % 2 == 1:
        fn, sn = fn >> 1, sn >> 1
    fr = sr = path[0]
    for c in path[1:]:
        if sn == 0:
            return False
        if fn % 2 == 1 or fn == sn:
            fr, sr = node(c, fr), node(c, sr)
            while fn % 2 == 0 and fn != 0:
                fn, sn = fn >> 1, sn >> 1
        else:
            sr = node(sr, c)
        fn, sn = fn >> 1, sn >> 1
    return sn == 0 and fr.hex() == first["root"] and sr.hex() == second["root"]


for line in open(sys.argv[1], encoding="utf-8"):
    proof = json.loads(line)
    last = signed(proof["checkpoint"], proof["key"])
    if proof.get("event"):
        holds = included(proof, last)
    else:
        holds = continued(proof, signed(proof["before"], proof["key"]), last)
    print("holds" if holds else "does not hold")
