#!/bin/sh
# All tests, in three groups beside each other, each as long as the others: the core's, which know no Qt; the machine's, the commands' and the
# catalogue of findings; the window's. Beside them the checks of style, types and imports. $1: the Python to use; $2: make. What each said is shown
# when it has ended; fails when one of them did.
python=$1
unset PYTHONDONTWRITEBYTECODE # each process that a test starts would compile all modules again
export OMP_NUM_THREADS=1 OPENBLAS_NUM_THREADS=1 # three groups share the processors already
told=$(mktemp -d)
group() {
    name=$1
    shift
    { "$python" -m pytest -q --durations=25 --durations-min=4 "$@" > "$told/$name" 2>&1; echo $? > "$told/$name.code"; } &
}
{ "${2:-make}" check > "$told/check" 2>&1; echo $? > "$told/check.code"; } &
group core -p no:pytest-qt --ignore=tests/core/test_catalogue.py tests/core tests/logbook
others=$(find tests -mindepth 1 -maxdepth 1 ! -name core ! -name logbook ! -name desk ! -name "__*" \( -type d -o -name "test_*.py" \))
# shellcheck disable=SC2086 # a word each
group machine $others tests/core/test_catalogue.py
group desk tests/desk
wait
worst=0
for name in check core machine desk; do
    echo "== $name"
    cat "$told/$name"
    test "$(cat "$told/$name.code")" = 0 || worst=1
done
rm -r "$told"
exit $worst
