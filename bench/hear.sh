#!/bin/sh
# Every figure of docs/listening.md, with one command: the recordings are made or fetched where they are not there yet.
# Usage: bench/hear.sh TOOLS [FOLDER]   (TOOLS the folder of the practice tools; some 6 GB, some 25 minutes on two cores)
# Needs what bench/learn.sh and the practice tools need, and apt.
set -eu
here=$(cd "$(dirname "$0")" && pwd)
tools=$(cd "$1" && pwd)
out=${2:-"$here/../.ear"}
mkdir -p "$out"
python=${PYTHON:-"$here/../.venv/bin/python"}
"$python" -m pip install -q -r "$here/ear/requirements.txt"
export PYTHONPATH="$here:$here/../src" OMP_NUM_THREADS=1
[ -d "$out/practice" ] || (cd "$tools" && "$python" make.py "$out/practice")
[ -d "$out/scores" ] || "$python" "$here/scores.py" "$out/scores" "$tools"
"$python" -m ear.dataset "$out/aside" 120 --first 250000
"$python" -m ear.dataset "$out/free" 60 --first 260000 --only free
echo "== beats, bars and sureness: practised on, looked at, kept aside, our own"
"$python" "$here/hearing.py" "$out/practice" "$out/scores/looked" "$out/scores/aside" "$out/aside" "$out/free"
echo "== by kind of music, and voices"
"$python" -m ear.figures "$out/aside"
echo "== what rings"
"$python" "$here/ringing.py" "$out/practice" "$out/scores/looked" "$out/scores/aside"
echo "== sections"
for first in 0 100000; do
    "$python" "$here/forms.py" --first "$first" --songs 48
    "$python" "$here/forms.py" --first "$first" --songs 48 --true-bars
done
echo "== recordings without a truth"
"$python" "$here/recordings.py" "$out/recordings"
echo "== seams"
"$python" "$here/practice.py" "$out/practice" "$tools" --seams
echo "== speed"
"$python" "$here/speed.py"
