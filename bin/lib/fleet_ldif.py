#!/usr/bin/python3
"""fleet_ldif.py PEOPLE_HASH SERVICE_HASH: the fleet directory as LDIF."""
import base64
import json
import os
import subprocess
import sys

BASE = "dc=fleet,dc=skerry,dc=test"
HERE = os.path.dirname(os.path.abspath(__file__))


def line(name, value):
    if all(32 <= ord(c) < 127 for c in value) and not value.startswith((" ", ":", "<")):
        return f"{name}: {value}"
    return f"{name}:: {base64.b64encode(value.encode()).decode()}"


def entry(dn, *pairs):
    print("\n".join([line("dn", dn)] + [line(name, value) for name, value in pairs if value is not None]) + "\n")


def bulk(how_many, people_hash):
    """Many more people, for measuring; in groups of a thousand."""
    for group in range(0, how_many, 1000):
        dns = []
        for number in range(group, min(how_many, group + 1000)):
            dn = f"uid=bulk{number},ou=people,{BASE}"
            dns.append(dn)
            entry(dn, ("objectClass", "inetOrgPerson"), ("uid", f"bulk{number}"), ("cn", f"Bulk Number {number}"),
                  ("sn", f"Number {number}"), ("givenName", "Bulk"), ("displayName", f"Bulk Number {number}"),
                  ("mail", f"bulk{number}@mail.skerry.test"), ("employeeNumber", f"9{number:06d}"),
                  ("departmentNumber", "Bulk"), ("userPassword", people_hash))
        entry(f"cn=Bulk {group // 1000},ou=groups,{BASE}", ("objectClass", "groupOfNames"), ("cn", f"Bulk {group // 1000}"),
              *[("member", dn) for dn in dns])


def main(people_hash, service_hash):
    data = json.loads(subprocess.check_output(["/usr/bin/python3", f"{HERE}/people.py"]))
    entry(BASE, ("objectClass", "dcObject"), ("objectClass", "organization"), ("o", "Fleet"), ("dc", "fleet"))
    for ou in ("people", "groups", "services", "policies"):
        entry(f"ou={ou},{BASE}", ("objectClass", "organizationalUnit"), ("ou", ou))
    entry(f"cn=default,ou=policies,{BASE}", ("objectClass", "organizationalRole"), ("objectClass", "pwdPolicy"),
          ("cn", "default"), ("pwdAttribute", "userPassword"), ("pwdMinAge", "0"), ("pwdMaxAge", "7776000"),
          ("pwdInHistory", "8"), ("pwdCheckQuality", "2"), ("pwdMinLength", "10"), ("pwdMaxLength", "64"),
          ("pwdLockout", "TRUE"), ("pwdLockoutDuration", "1800"), ("pwdMaxFailure", "3"),
          ("pwdFailureCountInterval", "1800"), ("pwdMustChange", "TRUE"), ("pwdAllowUserChange", "TRUE"),
          ("pwdSafeModify", "FALSE"))
    for name in ("svc-entente", "svc-none"):
        entry(f"cn={name},ou=services,{BASE}", ("objectClass", "organizationalRole"),
              ("objectClass", "simpleSecurityObject"), ("cn", name), ("userPassword", service_hash))
    entry(f"uid=entente-probe,ou=people,{BASE}", ("objectClass", "inetOrgPerson"), ("uid", "entente-probe"),
          ("cn", "entente-probe"), ("sn", "probe"), ("userPassword", service_hash))
    members = {}
    for one in data["people"]:
        if one["fleet"] is None:
            continue
        dn = f"uid={one['fleet']},ou=people,{BASE}"
        entry(dn, ("objectClass", "inetOrgPerson"), ("uid", one["fleet"]), ("cn", one["name"]), ("sn", one["surname"]),
              ("givenName", one["given"]), ("displayName", one["name"]), ("mail", one["mail"]),
              ("employeeNumber", one["number"]), ("departmentNumber", one["department"]), ("userPassword", people_hash))
        members.setdefault(one["department"], []).append(dn)
    for department, dns in members.items():
        entry(f"cn={department},ou=groups,{BASE}", ("objectClass", "groupOfNames"), ("cn", department),
              *[("member", dn) for dn in dns])
    bulk(int(os.environ.get("LAB_BULK_LDAP") or 0), people_hash)


if __name__ == "__main__":
    main(sys.argv[1], sys.argv[2])
