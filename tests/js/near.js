// Figures that are as good as equal, for the tests of the page's pure modules.

import assert from "node:assert/strict";

/** @param {number} found @param {number} wanted @param {number} slack */
export function near(found, wanted, slack = 1e-6) {
  assert.ok(Math.abs(found - wanted) <= slack, `${found} is not ${wanted}`);
}
