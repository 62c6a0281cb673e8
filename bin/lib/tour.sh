# The tour: from a directory that is connected to a password that it confirms. Sourced by bin/demo with everything running.
PERSON=astrid.nordvik FLEET_LOGIN=anordvik1 ADDRESS=astrid.nordvik@mail.skerry.test
NEW="Rowan-Kettle-$(secret | tr -dc a-z0-9 | head -c 6)-9"
PICTURES=$D/pictures
mkdir -p "$PICTURES"

# confirm WHAT EXPECTED COMMAND...: runs a plain LDAP client and compares how it ends.
confirm() {
    local what=$1 expected=$2 code=0
    shift 2
    printf '\n$ %s\n' "$(printf '%q ' "$@" | sed 's/LDAPTLS_CACERT=[^ ]* //; s/env //')"
    LDAPTLS_CACERT=$LAB/pki/ca.crt "$@" 2>&1 || code=$?
    # 49 is invalidCredentials.
    case $expected:$code in
    binds:0 | refused:49) echo "→ $what: $expected, as it should be" ;;
    *) fail "$what: should be: $expected; but the client ended with $code" ;;
    esac
}
shore_bind() { confirm "$1" "$2" ldapsearch -LLL -x -H "ldaps://$LAB_AD_IP:636" -D "$PERSON@skerry.test" -w "$3" -s base -b '' defaultNamingContext; }
fleet_bind() { confirm "$1" "$2" ldapwhoami -x -H "ldaps://127.0.0.1:$LAB_LDAPS_PORT" -D "uid=$FLEET_LOGIN,ou=people,dc=fleet,dc=skerry,dc=test" -w "$3"; }

OLD=Harbour-Light-42
[ -f "$D/password-of-$PERSON" ] && OLD=$(cat "$D/password-of-$PERSON")

printf '\n== Before: the present password of %s\n' $PERSON
shore_bind "the present password in shore" binds "$OLD"
fleet_bind "the present password in fleet" binds "$OLD"

printf '\n== The administrator looks: who is covered, and can she do it?\n'
shown entente directory list
shown entente policy show deck-crew
shown entente explain $PERSON

printf '\n== The person gets back in, in a browser\n'
java -cp "$ROOT/e2e/target/entente-e2e-0.1.0.jar:$ROOT/e2e/target/lib/*" dev.entente.e2e.RecoverInBrowser \
    "$URL" "http://localhost:$BOX" $PERSON $ADDRESS "$NEW" "$PICTURES" || fail "the portal did not say that the password works"
echo "$NEW" >"$D/password-of-$PERSON"

printf '\n== The directories themselves\n'
shore_bind "the new password in shore" binds "$NEW"
shore_bind "the old password in shore" refused "$OLD"
fleet_bind "the new password in fleet" binds "$NEW"
fleet_bind "the old password in fleet" refused "$OLD"

printf '\n== What is on record\n'
shown entente attempt list --limit 3
REFERENCE=$(entente --output csv attempt list --limit 1 | sed -n '2s/,.*//p')
shown entente attempt show "$REFERENCE"
shown entente steward log --file "$D/steward-shore/steward.yaml" $PERSON
shown entente event list --limit 5
printf '\n== A week of the administrator: a first ring, wider, a second method\n'
WEEK=$D/week
rm -rf "$WEEK"
BEGAN=$(entente --output json revision list | sed -n 's/.*"number" *: *\([0-9]*\).*/\1/p' | head -n 1)
entente revision export "$BEGAN" "$WEEK" 2>/dev/null

# refused COMMAND...: shows a command that has to say no.
refused() {
    printf '\n$ %s\n' "$*"
    ! "$@" 2>&1 || fail "this should have been refused: $*"
}

# draft NAME: a draft that holds what is in the week's folder.
draft() {
    for one in $(entente --output csv draft list 2>/dev/null | sed -n '2,$s/,.*//p'); do entente draft discard --draft "$one" 2>/dev/null; done
    entente draft start --name "$1" >/dev/null 2>&1
    entente draft load "$WEEK" 2>/dev/null
}

# ring SHARE METHODS: the pilot policy for a stable share of the deck crew.
ring() {
    cat >"$WEEK/scopes/pilot.yaml" <<EOF
scope: pilot
title: First ring
any:
  - scope: deck-crew
portion: $1
EOF
    cat >"$WEEK/policies/pilot.yaml" <<EOF
policy: pilot
title: First ring
who: scope pilot
allow: [reset, unlock, change, details]
prove:
  reset: { methods: $2, any-of: [email-code, app-code, recovery-code] }
  details: { any-of: [email-code] }
deliver: { to: [shore, fleet] }
EOF
    echo 'order: [pilot, deck-crew, bridge-officers, engine-crew, shore-office]' >"$WEEK/order.yaml"
}

echo; echo "-- Monday: 10 % of the deck crew"
ring 10% 1
draft "first ring"
shown entente draft compare
shown entente draft rehearse
shown entente draft publish --note "first ring"
shown entente scope show pilot

echo; echo "-- Tuesday: wider; whoever was in it stays"
entente --output csv scope members pilot | sed 1d | sort >"$D/ring-before"
ring 30% 1
draft "wider ring"
shown entente draft publish --note "wider ring"
entente --output csv scope members pilot | sed 1d | sort >"$D/ring-after"
[ -z "$(comm -23 "$D/ring-before" "$D/ring-after")" ] || fail "somebody fell out of the ring as it grew"
echo "→ $(wc -l <"$D/ring-before") people before, $(wc -l <"$D/ring-after") now, and nobody fell out"
tries=60
until entente --output csv scope changes pilot 2>/dev/null | grep -q came; do
    [ $((tries -= 1)) -gt 0 ] || fail "nothing is told of who came to the ring"
    sleep 0.5
done
shown entente scope changes pilot --limit 5

echo; echo "-- Wednesday: a second method, rehearsed before anybody meets it"
ring 30% 2
draft "second method"
printf '\n$ entente draft rehearse\n'
entente draft rehearse && fail "nobody would lose a way in, and somebody should"
refused entente draft publish --note "second method"
echo "→ nobody has set up a second method yet: it is not published"

echo; echo "-- Thursday: a bad change, rehearsed and thrown away"
ring 30% 1
sed -i 's/^allow:.*/allow: []/' "$WEEK/policies/deck-crew.yaml"
draft "bad change"
printf '\n$ entente draft rehearse\n'
entente draft rehearse | head -n 3 || true
shown entente draft discard

echo; echo "-- Friday: codes reach the wrong people: stopped at once, and lifted"
shown entente stop method:email-code --reason "codes reach the wrong people" --for 1h
printf '\n$ entente explain %s\n' $PERSON
entente explain $PERSON && fail "a stop should stand in the way"
shown entente resume method:email-code
shown entente explain $PERSON --text

echo; echo "-- And back to where the week began"
printf '\n$ entente revision compare %s\n' "$BEGAN"
entente revision compare "$BEGAN" | head -n 3 || true
# A tour that was broken off may have left the same behind.
entente revision compare "$BEGAN" | grep -q "^Nothing changes" || # Calum Wick has no mailbox: without the text code he could not do it any more.
shown entente revision restore "$BEGAN" --note "end of the tour" --loses-way 1

printf '\n== Other methods: a passkey, a phone that approves, a text message\n'
cat >"$WEEK/scopes/pilot.yaml" <<EOF
scope: pilot
title: Without the code by e-mail
any:
  - people: [signe.moen, fergus.flett, calum.wick]
EOF
cat >"$WEEK/policies/pilot.yaml" <<EOF
policy: pilot
title: Without the code by e-mail
who: scope pilot
allow: [reset, details]
prove:
  reset: { any-of: [passkey, push, sms-code] }
  details: { any-of: [email-code] }
deliver: { to: [shore, fleet] }
EOF
sed -i 's/^allow:.*/allow: [reset, unlock, change, details]/' "$WEEK/policies/deck-crew.yaml"
echo 'order: [pilot, deck-crew, bridge-officers, engine-crew, shore-office]' >"$WEEK/order.yaml"
draft "other methods"
shown entente draft publish --note "other methods"
shown entente policy show pilot
shown entente phone test "+44 7700 900999"
word() { echo "$1-$(secret | tr -dc a-z0-9 | head -c 6)-7"; }
FIRST=$(word Heron-Slate) SECOND=$(word Otter-Rope) THIRD=$(word Gannet-Mist)
# What people set up on another day would be there already.
for one in signe.moen fergus.flett; do
    for id in $(entente --output csv person methods "$one" 2>/dev/null | sed -n '2,$s/.*,//p'); do
        [ -z "$id" ] || entente person remove-method "$one" "$id" 2>/dev/null
    done
done
java -cp "$ROOT/e2e/target/entente-e2e-0.1.0.jar:$ROOT/e2e/target/lib/*" dev.entente.e2e.MethodsInBrowser \
    "$URL" "http://localhost:$BOX" "$PICTURES" signe.moen signe.moen@mail.skerry.test "$FIRST" \
    fergus.flett fergus.flett@mail.skerry.test "$SECOND" calum.wick +447700900006 "$THIRD" ||
    fail "the portal did not say three times that the password works"
for one in "signe.moen $FIRST" "fergus.flett $SECOND" "calum.wick $THIRD"; do
    confirm "the new password of ${one% *}" binds \
        ldapsearch -LLL -x -H "ldaps://$LAB_AD_IP:636" -D "${one% *}@skerry.test" -w "${one#* }" -s base -b '' defaultNamingContext
done
shown entente phone show
# Calum Wick has no mailbox: without the text code he could not do it any more.
shown entente revision restore "$BEGAN" --note "end of the tour" --loses-way 1

printf '\n== The record: who did what, and that it is what was sealed\n'
shown entente event list --person signe.moen --limit 12
shown entente event list --severity warning --limit 5
RECORD=$WEEK/record.jsonl
rm -f "$RECORD"
# The first time the key is noted, and compared with none.
shown entente event verify || [ $? -eq 5 ] || fail "the record should be what was sealed"
entente event checkpoint >"$WEEK/checkpoint"
shown entente event export "$RECORD"
# Offline: with nothing but the file and the checkpoint that was kept.
printf '\n$ entente event verify %s --kept %s\n' "$RECORD" "$WEEK/checkpoint"
ENTENTE_SERVER=http://localhost:1 entente event verify "$RECORD" --kept "$WEEK/checkpoint" || fail "the record should be what was sealed"

# One attempt for an incident's file, and its proofs, checked without the service.
LAST=$(entente --output csv event list --person signe.moen --kind attempt.concluded --limit 1 | sed -n '2p' | grep -o 'R [0-9 ]*[0-9]')
shown entente attempt report "$LAST" --to "$PICTURES/report.pdf"
entente event prove --reference "$LAST" >"$WEEK/proofs"
printf '\n$ entente event check %s\n' "$WEEK/proofs"
ENTENTE_SERVER=http://localhost:1 entente event check "$WEEK/proofs" || fail "the events of the attempt should be proven"
shown entente notification list --limit 5
shown entente outlet list
shown entente erasure list

printf '\nEvery new password is confirmed by its directory. Pictures of the pages: %s\n' "$PICTURES"
