#!/usr/bin/python3
"""ad_make.py DIR: provisions the domain and puts the demo people in, offline. Used once; the result is kept as a template.

Works without extended attributes and as any user. Passwords of people are one hash that is copied, for real hashing takes
25 ms each; the first real write of a password makes a real one.
"""
import json
import logging
import os
import pwd
import subprocess
import sys
import time

import ldb
from samba import dsdb
from samba.auth import system_session
from samba.credentials import Credentials
from samba.dcerpc import security
from samba.dsdb import DS_DOMAIN_FUNCTION_2008_R2
from samba.ndr import ndr_pack, ndr_unpack
from samba.param import LoadParm
from samba.provision import provision
from samba.samdb import SamDB

FOREVER = "-9223372036854775808"
HERE = os.path.dirname(os.path.abspath(__file__))
PEOPLE_PASSWORD, SERVICE_PASSWORD = "Harbour-Light-42", "Svc-Quiet-Water-7"


def quoted(password):
    return f'"{password}"'.encode("utf-16-le")


def filetime():
    return str(int((time.time() + 11644473600) * 10**7))


def make_domain(folder):
    lp = LoadParm()
    lp.load(f"{folder}/etc/smb.conf")
    log = logging.getLogger("provision")
    log.setLevel(logging.WARNING)
    me = pwd.getpwuid(os.getuid()).pw_name
    provision(log, system_session(), smbconf=f"{folder}/etc/smb.conf", lp=lp, realm="SKERRY.TEST", domain="SKERRY",
              hostname="dc1", hostip="127.0.10.1", adminpass="Adm1n-Skerry-Line", dns_backend="NONE",
              serverrole="active directory domain controller", dom_for_fun_level=DS_DOMAIN_FUNCTION_2008_R2,
              root=me, nobody=me, users="nogroup", skip_sysvolacl=True, use_rfc2307=False)


def delegate(db, base, sid):
    """Exactly the rights that are needed, below People, for user objects only."""
    user = "bf967aba-0de6-11d0-a285-00aa003049e2"
    aces = "".join((
        f"(OA;CIIO;CR;00299570-246d-11d0-a768-00aa006e0529;{user};{sid})",  # reset password
        f"(OA;CIIO;WP;28630ebf-41d5-11d1-a9c1-0000f80367c1;{user};{sid})",  # lockoutTime
        f"(OA;CIIO;WP;bf967a0a-0de6-11d0-a285-00aa003049e2;{user};{sid})"))  # pwdLastSet
    domain, ou = security.dom_sid(db.get_domain_sid()), f"OU=People,{base}"
    found = db.search(ou, ldb.SCOPE_BASE, attrs=["nTSecurityDescriptor"])[0]["nTSecurityDescriptor"][0]
    sddl = ndr_unpack(security.descriptor, found).as_sddl(domain)
    at = sddl.index("(", sddl.index("D:"))
    message = ldb.Message(ldb.Dn(db, ou))
    message["d"] = ldb.MessageElement(ndr_pack(security.descriptor.from_sddl(sddl[:at] + aces + sddl[at:], domain)),
                                      ldb.FLAG_MOD_REPLACE, "nTSecurityDescriptor")
    db.modify(message, ["sd_flags:1:4"])


def fill(folder):
    lp = LoadParm()
    lp.load(f"{folder}/etc/smb.conf")
    db = SamDB(session_info=system_session(), lp=lp)
    base = db.domain_dn()
    data = json.loads(subprocess.check_output(["/usr/bin/python3", f"{HERE}/people.py"]))
    credentials = Credentials()
    credentials.set_password(PEOPLE_PASSWORD)
    copied = ["local_oid:%s:0" % dsdb.DSDB_CONTROL_BYPASS_PASSWORD_HASH_OID]
    hashed = credentials.get_nt_hash()

    db.transaction_start()
    for ou in ("People", "Groups", "Service Accounts", "Administrators"):
        db.add({"dn": f"OU={ou},{base}", "objectClass": "organizationalUnit"})
    for ou in ("Deck", "Engine", "Bridge", "Terminals", "Office", "Agency"):
        db.add({"dn": f"OU={ou},OU=People,{base}", "objectClass": "organizationalUnit"})
    for name in ("svc-entente", "svc-none"):
        db.add({"dn": f"CN={name},OU=Service Accounts,{base}", "objectClass": "user", "sAMAccountName": name,
                "userAccountControl": "66048", "unicodePwd": quoted(SERVICE_PASSWORD)})
    db.add({"dn": f"CN=entente-probe,OU=People,{base}", "objectClass": "user", "sAMAccountName": "entente-probe",
            "userAccountControl": "514", "unicodePwd": quoted(SERVICE_PASSWORD)})
    # What a running domain controller registers by itself, with the service that is left out here.
    message = ldb.Message(ldb.Dn(db, f"CN=DC1,OU=Domain Controllers,{base}"))
    message["n"] = ldb.MessageElement(["ldap/dc1.skerry.test"], ldb.FLAG_MOD_ADD, "servicePrincipalName")
    db.modify(message)
    found = db.search(f"CN=svc-entente,OU=Service Accounts,{base}", ldb.SCOPE_BASE, attrs=["objectSid"])
    delegate(db, base, ndr_unpack(security.dom_sid, found[0]["objectSid"][0]))
    members = {group: [] for group in data["nesting"]}
    dns = {}
    for one in data["people"]:
        ou = f"OU={one['ou']},{base}" if one["ou"] == "Administrators" else f"OU={one['ou']},OU=People,{base}"
        dn = f"CN={one['name']} {one['number']},{ou}"
        entry = {"dn": dn, "objectClass": "user", "sAMAccountName": one["login"],
                 "userPrincipalName": f"{one['login']}@skerry.test", "givenName": one["given"], "sn": one["surname"],
                 "displayName": one["name"], "department": one["department"], "employeeID": one["number"],
                 "employeeType": one["type"], "mobile": one["mobile"], "unicodePwd": hashed, "pwdLastSet": filetime(),
                 "userAccountControl": "514" if one["disabled"] else "512"}
        if one["mail"]:
            entry["mail"] = one["mail"]
        if one["locked"]:
            entry["lockoutTime"] = filetime()
        db.add(entry, copied)
        dns[one["login"]] = dn
        for group in one["groups"]:
            members[group].append(dn)
    for one in data["people"]:
        if one["manager"]:
            message = ldb.Message(ldb.Dn(db, dns[one["login"]]))
            message["m"] = ldb.MessageElement(dns[one["manager"]], ldb.FLAG_MOD_ADD, "manager")
            db.modify(message)
    for group in members:
        db.add({"dn": f"CN={group},OU=Groups,{base}", "objectClass": "group", "sAMAccountName": group})
    for group, above in data["nesting"].items():
        for parent in above:
            members[parent].append(f"CN={group},OU=Groups,{base}")
    for group, names in members.items():
        if names:
            message = ldb.Message(ldb.Dn(db, f"CN={group},OU=Groups,{base}"))
            message["m"] = ldb.MessageElement(names, ldb.FLAG_MOD_ADD, "member")
            db.modify(message)
    for number in range(int(os.environ.get("LAB_BULK_AD") or 0)):
        # Many more people, for measuring.
        db.add({"dn": f"CN=Bulk {number},OU=Deck,OU=People,{base}", "objectClass": "user",
                "sAMAccountName": f"bulk{number}", "userPrincipalName": f"bulk{number}@skerry.test",
                "displayName": f"Bulk {number}", "department": "Bulk", "employeeID": f"9{number:06d}",
                "mail": f"bulk{number}@mail.skerry.test", "unicodePwd": hashed, "pwdLastSet": filetime(),
                "userAccountControl": "512"}, copied)
    rules = {"minPwdLength": "10", "pwdProperties": "1", "pwdHistoryLength": "5", "minPwdAge": "0",
             "maxPwdAge": "-77760000000000", "lockoutThreshold": "3", "lockoutDuration": FOREVER,
             "lockOutObservationWindow": "-18000000000"}
    message = ldb.Message(ldb.Dn(db, base))
    for name, value in rules.items():
        message[name] = ldb.MessageElement(value, ldb.FLAG_MOD_REPLACE, name)
    db.modify(message)
    db.transaction_commit()


if __name__ == "__main__":
    make_domain(sys.argv[1])
    fill(sys.argv[1])
