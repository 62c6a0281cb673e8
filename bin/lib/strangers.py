#!/usr/bin/python3
"""strangers.py URL NAME: what strangers do in a bad hour, in a minute or two. For the demo only.

Starts attempts for names that mean nobody from a few addresses, and guesses at NAME's codes from many. Every address is a
loopback one of its own, so that the service sees as many networks. Prints how often it was answered how.
"""
import base64
import collections
import concurrent.futures
import hashlib
import http.client
import json
import random
import re
import subprocess
import sys
import tempfile
import threading
import urllib.parse
import uuid

url, name = urllib.parse.urlparse(sys.argv[1]), sys.argv[2]


def text64(data):
    return base64.urlsafe_b64encode(data).rstrip(b"=").decode()


def openssl(*arguments, data=b""):
    return subprocess.run(["openssl", *arguments], input=data, capture_output=True, check=True).stdout


folder = tempfile.TemporaryDirectory()
PRIVATE = folder.name + "/key.pem"
openssl("ecparam", "-name", "prime256v1", "-genkey", "-noout", "-out", PRIVATE)
POINT = openssl("ec", "-in", PRIVATE, "-pubout", "-outform", "DER")[-64:]
KEY = {"kty": "EC", "crv": "P-256", "x": text64(POINT[:32]), "y": text64(POINT[32:])}
KID = text64(hashlib.sha256(
    json.dumps({"crv": KEY["crv"], "kty": KEY["kty"], "x": KEY["x"], "y": KEY["y"]}, separators=(",", ":")).encode()).digest())


def signed(reference, method, path, body):
    """Shows that it is the page that began the attempt, as docs/protocol.md has it."""
    parts = [
        {"alg": "ES256", "typ": "entente-act+jwt", "kid": KID},
        {"v": 1, "reference": re.sub("[^0-9]", "", reference), "htm": method, "htu": path,
         "bd": text64(hashlib.sha256(body.encode()).digest()), "jti": str(uuid.uuid4())},
    ]
    text = ".".join(text64(json.dumps(part).encode()) for part in parts)
    der = openssl("dgst", "-sha256", "-sign", PRIVATE, data=text.encode())
    # ECDSA-Sig-Value (RFC 3279 section 2.2.3) to the two numbers of RFC 7518 section 3.4.
    r = der[4:4 + der[3]]
    s = der[6 + der[3]:]
    return text + "." + text64(r.lstrip(b"\0").rjust(32, b"\0") + s.lstrip(b"\0").rjust(32, b"\0"))


answers = collections.Counter()
lock = threading.Lock()


def ask(address, method, path, body, cookie="", reference=""):
    connection = http.client.HTTPConnection(url.hostname, url.port, timeout=60, source_address=(address, 0))
    try:
        headers = {"Content-Type": "application/json", "Cookie": cookie}
        text = json.dumps(body)
        if reference:
            headers["Entente-Act"] = signed(reference, method, path, text)
        connection.request(method, "/api/v1/portal" + path, text, headers)
        answer = connection.getresponse()
        text = answer.read()
        cookie = answer.getheader("Set-Cookie", cookie).split(";")[0]
        return answer.status, json.loads(text or b"{}"), cookie
    except OSError:
        return 0, {}, cookie
    finally:
        connection.close()


def count(what, status):
    with lock:
        answers[f"{what} {status or 'not answered'}"] += 1


def made_up(number):
    address = f"127.77.0.{1 + number % 3}"
    word = "".join(random.choices("aeioklmnrst", k=7))
    count("made-up names:", ask(address, "POST", "/attempts", {"name": word, "action": "reset", "key": KEY})[0])


def guesser(number):
    address = f"127.78.{number // 250}.{1 + number % 250}"
    status, started, cookie = ask(address, "POST", "/attempts", {"name": name, "action": "reset", "key": KEY})
    count("starts in one name:", status)
    if status != 201:
        return
    status, attempt, cookie = ask(address, "POST", "/attempt/challenges", {"method": "email-code"}, cookie, started["reference"])
    for _ in range(5):
        code = f"{random.randrange(10**8):08d}"
        path = f"/attempt/challenges/{attempt.get('challenge', {}).get('id')}/answers"
        status, _, cookie = ask(address, "POST", path, {"code": code}, cookie, started["reference"])
        count("guesses:", status)


with concurrent.futures.ThreadPoolExecutor(60) as threads:
    work = [(made_up, i) for i in range(900)] + [(guesser, i) for i in range(120)]
    random.Random(3).shuffle(work)
    for done in [threads.submit(what, number) for what, number in work]:
        done.result()
for what, times in sorted(answers.items()):
    print(f"{times:6} {what}")
