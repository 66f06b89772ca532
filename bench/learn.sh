#!/bin/sh
# Teach the ear, the count, what is held and what sounds anew, with one command: scores are written, rendered and learned
# from, and the weights put in place. Each is taught on other pieces: the count learns how far the ear is to be trusted.
# Usage: bench/learn.sh [FOLDER] [PIECES] [MINUTES]   (some 6 GB, some six hours on two cores)
# Needs Debian's fluidsynth, fluid-soundfont-gm, timgm6mb-soundfont, musescore-general-soundfont-small, opl3-soundfont,
# espeak-ng, and the application's own environment (./check makes it).
set -eu
here=$(cd "$(dirname "$0")" && pwd)
out=${1:-"$here/../.ear"}
pieces=${2:-900}
minutes=${3:-75}
mkdir -p "$out"
python=${PYTHON:-"$here/../.venv/bin/python"}
"$python" -m pip install -q -r "$here/ear/requirements.txt"
export PYTHONPATH="$here:$here/../src" OMP_NUM_THREADS=1
"$python" -m ear.dataset "$out/set" "$pieces"
OMP_NUM_THREADS=2 "$python" -m ear.train "$out/set" "$out/ear.onnx" --minutes "$minutes"
cp "$out/ear.onnx" "$here/../src/evenseam/core/listen/ear.onnx"
"$python" -m ear.dataset "$out/count" "$pieces" --first 30000
"$python" -m ear.count_train "$out/count" "$out/halves" "$out/count.onnx"
cp "$out/count.onnx" "$here/../src/evenseam/core/listen/count.onnx"
"$python" -m ear.held_train "$out/held.onnx"
cp "$out/held.onnx" "$here/../src/evenseam/core/listen/held.onnx"
"$python" -m ear.pitches_train "$out/pitches.onnx"
cp "$out/pitches.onnx" "$here/../src/evenseam/core/listen/pitches.onnx"
"$python" -m ear.dataset "$out/aside" 120 --first 250000
"$python" -m ear.figures "$out/aside"
