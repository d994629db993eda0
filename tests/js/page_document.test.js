import assert from "node:assert/strict";
import { test } from "node:test";

globalThis.document ??= Object.assign(new EventTarget(), { querySelector: () => ({ content: "" }) });

const { PageDocument } = await import("../../src/jaylantern/web/static/js/page_document.js");

function opened(answers) {
  globalThis.fetch = async () => new Response(JSON.stringify(answers.shift()), { headers: { "Content-Type": "application/json" } });
  const page = new PageDocument(7);
  const heard = [];
  page.addEventListener("change", ({ detail }) => heard.push({ fresh: detail.fresh, foreign: detail.foreign }));
  return { page, heard };
}

test("what is there when a page is opened was changed in no other window, whoever asked for it first", async () => {
  const { page, heard } = opened([{ revision: 4 }, { revision: 4 }]);
  await page.load({ foreign: true });
  await page.load();
  page._others.close();
  assert.deepEqual(heard, [{ fresh: true, foreign: false }, { fresh: false, foreign: false }]);
});

test("what another window changed is said to be foreign, and an older answer is passed over", async () => {
  const { page, heard } = opened([{ revision: 4 }, { revision: 5 }, { revision: 4 }]);
  await page.load();
  await page.load({ foreign: true });
  await page.load();
  page._others.close();
  assert.deepEqual(heard.at(-1), { fresh: true, foreign: true });
  assert.equal(heard.length, 2);
  assert.equal(page.doc.revision, 5);
});
