// Which window is played next at any rate and way, and where in it one is.

import assert from "node:assert/strict";
import { test } from "node:test";
import { backwards, faster, nextWindow, placeIn } from "../../src/jaylantern/web/static/js/plain/windows.js";

const S = 48_000;
const NEXT = [
  [{ at_n: 0 }, [0, S]],
  [{ at_n: S + 5 }, [S + 5, 2 * S]],
  [{ at_n: 10 * S }, null],
  [{ at_n: 9 * S + 1 }, [9 * S + 1, 10 * S]],
  [{ at_n: 0, wide: 4, rate: 4 }, [0, 4 * S]],
  [{ at_n: 3 * S, loop: [S, 3 * S] }, [S, 2 * S]],
  [{ at_n: 2 * S, loop: [S, 2 * S + 100] }, [2 * S, 2 * S + 100]],
  [{ at_n: S, skips: [[S, 2 * S]] }, [2 * S, 3 * S]],
  [{ at_n: 0, skips: [[1000, 2000]] }, [0, 1000]],
  [{ at_n: 10 * S, rate: -1 }, [9 * S, 10 * S]],
  [{ at_n: 2 * S + 7, rate: -1 }, [2 * S, 2 * S + 7]],
  [{ at_n: 2 * S, rate: -1 }, [S, 2 * S]],
  [{ at_n: 0, rate: -1 }, null],
  [{ at_n: 2 * S, rate: -4, wide: 4 }, [0, 2 * S]],
];

for (const [values, expected] of NEXT) {
  test(`the window after ${JSON.stringify(values)}`, () => {
    const found = nextWindow({ loop: null, skips: [], rate: 1, length_n: 10 * S, ...values });
    assert.deepEqual(found && [found.start_n, found.stop_n], expected);
  });
}

for (const [rate, time, place] of [[1, 0.5, 1.5], [2, 0.25, 1.5], [-1, 0.25, 1.75], [-2, 0.25, 1.5], [1, 9, 2], [-1, 9, 1]]) {
  test(`at rate ${rate}, ${time} s after it began, a window from 1 s to 2 s is at ${place} s`, () => {
    assert.equal(placeIn({ at: 0, start_n: S, stop_n: 2 * S, rate }, time, S), Math.round(place * S));
  });
}

test("backwards turns frames, not channels", () => {
  assert.deepEqual([...backwards(new Float32Array([1, 2, 3, 4, 5, 6]), 2)], [5, 6, 3, 4, 1, 2]);
});

for (const [rate, way, then] of [[1, 1, 2], [2, 1, 4], [4, 1, 8], [8, 1, 8], [8, -1, -1], [-1, -1, -2], [-2, 1, 1]]) {
  test(`a press for ${way} at rate ${rate} makes ${then}`, () => assert.equal(faster(rate, way), then));
}
