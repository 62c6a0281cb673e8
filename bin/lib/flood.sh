# The flood: an hour of what strangers do, in a minute or two, while a person gets back in. Sourced by bin/demo.
PERSON=birger.rennie ADDRESS=birger.rennie@mail.skerry.test
NEW="Willow-Anchor-$(secret | tr -dc a-z0-9 | head -c 6)-7"
PICTURES=$D/pictures
mkdir -p "$PICTURES"

printf '\n== Before\n'
shown entente status || true

printf '\n== Strangers begin: 900 starts for names that mean nobody, 600 guesses in the name of %s\n' $PERSON
/usr/bin/python3 "$ROOT/bin/lib/strangers.py" "$URL" $PERSON >"$D/strangers.txt" &
STRANGERS=$!
sleep 10

printf '\n== Meanwhile the person gets back in, on a browser that was never used here before\n'
java -cp "$ROOT/e2e/target/entente-e2e-0.1.0.jar:$ROOT/e2e/target/lib/*" dev.entente.e2e.RecoverInBrowser \
    "$URL" "http://localhost:$BOX" $PERSON $ADDRESS "$NEW" "$PICTURES" || fail "the owner was kept out"
echo "→ $PERSON has a new password"

wait $STRANGERS
printf '\n== What the strangers got\n'
cat "$D/strangers.txt"

printf '\n== What the administrator sees\n'
sleep 3
shown entente status || true
shown entente explain $PERSON || true
java -cp "$ROOT/e2e/target/entente-e2e-0.1.0.jar:$ROOT/e2e/target/lib/*" dev.entente.e2e.Pictures \
    "$URL" $LOGIN "$PASSWORD" "$PICTURES" flood
echo "→ pictures are in $PICTURES"
