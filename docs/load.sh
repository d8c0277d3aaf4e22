#!/bin/sh
# Loads ready rows, but only the very rows that passed.
#
#   docs/load.sh READY RECEIPT PUBLIC-KEY COMMAND [ARGUMENTS...]
#
# The command gets the ready rows on standard input. They are copied first, and the copy is what is judged and loaded:
# nobody can change it in between.
set -eu

ready=$1 receipt=$2 key=$3
shift 3

folder=$(mktemp -d)
trap 'rm -rf "$folder"' EXIT
cp -- "$ready" "$folder/ready"

# 1: something differs, 2: it cannot be judged. Both end here.
tidy-gate receipt "$folder/ready" --with "$receipt" --trust "$key" || {
    code=$?
    echo "nothing was loaded" >&2
    exit "$code"
}
"$@" < "$folder/ready"
