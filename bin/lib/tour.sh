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
printf '\nEvery new password is confirmed by its directory. Pictures of the pages: %s\n' "$PICTURES"
