import assert from "node:assert/strict";
import { test } from "node:test";

globalThis.document ??= Object.assign(new EventTarget(), { querySelector: () => ({ content: "" }) });

const { PageDocument } = await import("../../src/jaylantern/web/static/js/project/page_document.js");

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

const STALE = { error: "It has moved on.", stale: true };

/** A page at revision 4 that asks for undo of step 9 and is told that the project is at revision 5, its last step `meanwhile`. */
async function steppedBack(meanwhile) {
  const sent = [];
  const answers = [{ revision: 4, undo_id: 9 }, STALE, { revision: 5, undo_id: meanwhile }, { revision: 6, undo_id: 8 }];
  globalThis.fetch = async (url, { body = "" } = {}) => {
    sent.push(`${String(url).replace(/[?].*/, "")} ${body}`);
    const answer = answers.shift();
    const headers = { "Content-Type": "application/json", ...(answer === STALE ? { "X-Refused": "409" } : {}) };
    return new Response(JSON.stringify(answer), { headers });
  };
  const page = new PageDocument(7);
  await page.load();
  const refused = await page.undo().then(() => null, (error) => error.message);
  page._others.close();
  return { refused, sent: sent.slice(1), revision: page.doc.revision };
}

test("a step is taken back though the background made a revision meanwhile", async () => {
  const { refused, sent, revision } = await steppedBack(9);
  assert.deepEqual([refused, revision], [null, 6]);
  assert.deepEqual(sent, ['/projects/7/undo {"seen":4}', "/projects/7/document ", '/projects/7/undo {"seen":5}']);
});

test("a step of another window is not taken back unseen", async () => {
  const { refused, sent, revision } = await steppedBack(10);
  assert.deepEqual([refused, revision, sent.length], [STALE.error, 5, 2]);
});

test("what this window has just sent is no step of another one, though the server was asked meanwhile", async () => {
  const { page, heard } = opened([{ revision: 4 }]);
  await page.load();
  let answer;
  globalThis.fetch = () => new Promise((done) => (answer = () => done(new Response(JSON.stringify({ revision: 5 })))));
  const sent = page.do("add_marker", { at_n: 0 });
  const caught = page.catchUp(5, { foreign: true }); // the pulse tells of the step before its answer is here
  await new Promise((done) => setTimeout(done, 5));
  answer();
  await Promise.all([sent, caught]);
  page._others.close();
  assert.deepEqual(heard.at(-1), { fresh: true, foreign: false });
  assert.equal(heard.length, 2);
});
