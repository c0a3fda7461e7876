# Stands for a mail to the office: adds a line to its inbox.
set -eu
mkdir -p office
printf 'run %s: %s\n' "$RUN" "$WHAT" >> office/inbox.txt
echo "told the office: $WHAT"
