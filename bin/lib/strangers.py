#!/usr/bin/python3
"""strangers.py URL NAME: what strangers do in a bad hour, in a minute or two. For the demo only.

Starts attempts for names that mean nobody from a few addresses, and guesses at NAME's codes from many. Every address is a
loopback one of its own, so that the service sees as many networks. Prints how often it was answered how.
"""
import collections
import concurrent.futures
import http.client
import json
import random
import sys
import threading
import urllib.parse

url, name = urllib.parse.urlparse(sys.argv[1]), sys.argv[2]
# The base point of P-256: a key that anybody may name and nobody here signs with.
KEY = {
    "kty": "EC", "crv": "P-256",
    "x": "axfR8uEsQkf4vOblY6RA8ncDfYEt6zOg9KE5RdiYwpY",
    "y": "T-NC4v4af5uO5-tKfA-eFivOM1drMV7Oy7ZAaDe_UfU",
}
answers = collections.Counter()
lock = threading.Lock()


def ask(address, method, path, body, cookie=""):
    connection = http.client.HTTPConnection(url.hostname, url.port, timeout=60, source_address=(address, 0))
    try:
        headers = {"Content-Type": "application/json", "Cookie": cookie}
        connection.request(method, "/api/v1/portal" + path, json.dumps(body), headers)
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
    status, _, cookie = ask(address, "POST", "/attempts", {"name": name, "action": "reset", "key": KEY})
    count("starts in one name:", status)
    if status != 201:
        return
    status, attempt, cookie = ask(address, "POST", "/attempt/challenges", {"method": "email-code"}, cookie)
    for _ in range(5):
        code = f"{random.randrange(10**8):08d}"
        status, _, cookie = ask(
            address, "POST", f"/attempt/challenges/{attempt.get('challenge', {}).get('id')}/answers", {"code": code}, cookie)
        count("guesses:", status)


with concurrent.futures.ThreadPoolExecutor(60) as threads:
    work = [(made_up, i) for i in range(900)] + [(guesser, i) for i in range(120)]
    random.Random(3).shuffle(work)
    for done in [threads.submit(what, number) for what, number in work]:
        done.result()
for what, times in sorted(answers.items()):
    print(f"{times:6} {what}")
