import { MutationObserver, QueryClient } from "@tanstack/react-query";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import type { Meeting, Patch } from "./client";
import { keys } from "./keys";

/** What was sent, and what a made-up server answers, call by call. */
interface Sent {
  method: string;
  path: string;
  seen: string | null;
  body: unknown;
}

type Answer = [number, unknown] | "gone";

const sent: Sent[] = [];
let answers: Answer[] = [];

class HereRequest extends Request {
  constructor(url: string, init?: RequestInit) {
    super(new URL(url, "http://here.example"), init);
  }
}

vi.stubGlobal("Request", HereRequest);
vi.stubGlobal("fetch", async (request: Request) => {
  const text = await request.text();
  sent.push({
    method: request.method,
    path: new URL(request.url).pathname,
    seen: request.headers.get("if-match"),
    body: text ? (JSON.parse(text) as unknown) : null,
  });
  const answer = answers.shift() ?? [500, { detail: "nobody expected this" }];
  if (answer === "gone") throw new TypeError("fetch failed");
  return new Response(JSON.stringify(answer[1]), { status: answer[0], headers: { "Content-Type": "application/json" } });
});

const { changing } = await import("./editing");
const { line } = await import("./line");

const PORT = { pointer: "/devices/1/ports/2", value: { name: "3", pvid: 10 } };
const PATCH: Patch = [{ op: "replace", path: "/devices/1/ports/2/pvid", value: 30 }];
const done = (version: number) => ({ version, can_undo: true, can_redo: false, undo_of: null, consequences: { opened: [] } });
const met = (meeting: Partial<Meeting>): Answer => [
  412,
  { detail: "somebody was faster", clash: { version: 8, clashes: [], on_top: PATCH, beside: [], ...meeting } },
];

let cache: QueryClient;
const draft = () => cache.getQueryData<{ version: number }>(keys.part("d", "draft"));
const shown = () => cache.getQueryData<typeof PORT>(keys.part("d", "item", PORT.pointer))?.value.pvid;
const change = (wanted: Parameters<ReturnType<typeof changing>["mutationFn"] & object>[0]) => new MutationObserver(cache, changing("d", cache)).mutate(wanted);

beforeEach(() => {
  sent.length = 0;
  answers = [];
  cache = new QueryClient();
  cache.setQueryData(keys.part("d", "draft"), { version: 7, can_undo: false, can_redo: false, undo_of: null });
  cache.setQueryData(keys.part("d", "item", PORT.pointer), PORT);
});
afterEach(() => {
  line.set(null);
  cache.clear();
});

test("an edit is shown at once, sent for the version on screen, and its consequences kept", async () => {
  answers = [[200, done(8)]];
  const going = change({ kind: "patch", patch: PATCH });
  await Promise.resolve();
  expect(shown()).toBe(30);
  await going;
  expect(sent).toEqual([{ method: "PATCH", path: "/api/designs/d/draft", seen: '"7"', body: PATCH }]);
  expect(draft()?.version).toBe(8);
  expect(cache.getQueryData(keys.part("d", "last-edit"))).toMatchObject({ version: 8 });
});

test("what a person began to type on an older draft is sent for that one", async () => {
  answers = [[200, done(8)]];
  await change({ kind: "patch", patch: PATCH, seen: 5 });
  expect(sent[0]?.seen).toBe('"5"');
});

test("an edit that touches nothing of what others did is sent again on top of theirs", async () => {
  const moved: Patch = [{ op: "replace", path: "/devices/2/ports/2/pvid", value: 30 }];
  answers = [met({ on_top: moved }), [200, done(9)]];
  await change({ kind: "patch", patch: PATCH });
  expect(sent.map((s) => [s.seen, s.body])).toEqual([
    ['"7"', PATCH],
    ['"8"', moved],
  ]);
});

test("two edits of one thing are not sent over each other: both versions go to the person, and the field is as it was", async () => {
  const clash = { path: PORT.pointer, before: 10, mine: 30, theirs: 20 };
  answers = [met({ clashes: [clash] as unknown as Meeting["clashes"] })];
  await expect(change({ kind: "patch", patch: PATCH })).rejects.toMatchObject({ problem: { status: 412, clash: { version: 8, clashes: [clash] } } });
  expect(sent).toHaveLength(1);
  expect(shown()).toBe(10);
});

test("an edit of which nothing is left on top of others' is not sent again", async () => {
  answers = [met({ on_top: [] })];
  await expect(change({ kind: "patch", patch: PATCH })).rejects.toMatchObject({ problem: { status: 412 } });
  expect(sent).toHaveLength(1);
});

test("others who are always faster do not keep it going for ever", async () => {
  answers = Array.from({ length: 20 }, () => met({}));
  await expect(change({ kind: "patch", patch: PATCH })).rejects.toMatchObject({ problem: { status: 412 } });
  expect(sent).toHaveLength(9);
});

test.each<[string, Answer, number, string]>([
  ["refused", [422, { detail: "a PVID is a VLAN of the plan" }], 422, "a PVID is a VLAN of the plan"],
  ["a database that does not answer", [503, { detail: "The database does not answer." }], 503, "The database does not answer."],
  ["a server that is gone", "gone", 0, "The server does not answer."],
])("%s: taken back, with the reason", async (_, answer, status, detail) => {
  answers = [answer];
  await expect(change({ kind: "patch", patch: PATCH })).rejects.toMatchObject({ problem: { status, detail } });
  expect(shown()).toBe(10);
  expect(draft()?.version).toBe(7);
});

test("cells and switches change at once, and are taken back where they are refused", async () => {
  const [grid, zones] = [keys.part("d", "grid"), keys.part("d", "zones", "")];
  const rule = (enabled: boolean) => ({ rules: [{ pointer: "/devices/0/rules/1", enabled }] });
  const cells = (cell: string) => ({ devices: [{ name: "sw", ports: [{ name: "1" }] }], rows: [{ vlan: 10, cells: [cell] }] });
  cache.setQueryData(grid, cells(""));
  cache.setQueryData(zones, rule(true));
  answers = [
    [422, { detail: "no" }],
    [422, { detail: "no" }],
  ];
  const going = change({ kind: "cells", cells: [{ device: "sw", port: "1", vlan: 10, cell: "tagged" }] });
  await Promise.resolve();
  expect(cache.getQueryData(grid)).toEqual(cells("tagged"));
  await expect(going).rejects.toMatchObject({ problem: { status: 422 } });
  const next = change({ kind: "patch", patch: [{ op: "add", path: "/devices/0/rules/1/enabled", value: false }] });
  await Promise.resolve();
  expect(cache.getQueryData(zones)).toEqual(rule(false));
  await expect(next).rejects.toMatchObject({ problem: { status: 422 } });
  expect([cache.getQueryData(grid), cache.getQueryData(zones)]).toEqual([cells(""), rule(true)]);
});

test("while the line is down nothing is sent", async () => {
  line.set("The server does not answer.");
  await expect(change({ kind: "patch", patch: PATCH })).rejects.toMatchObject({ problem: { status: 0, detail: /read-only/ } });
  expect(sent).toEqual([]);
  expect(shown()).toBe(10);
});

test("a new name is worked out by the server, then sent as an edit", async () => {
  answers = [
    [200, { patch: PATCH }],
    [200, done(8)],
  ];
  await change({ kind: "rename", wanted: { pointer: PORT.pointer, name: "4" } });
  expect(sent.map((s) => [s.method, s.path])).toEqual([
    ["POST", "/api/designs/d/draft/rename"],
    ["PATCH", "/api/designs/d/draft"],
  ]);
});

test.each(["undo", "redo"] as const)("%s goes for the version on screen", async (kind) => {
  answers = [[200, done(8)]];
  await change({ kind });
  expect(sent).toMatchObject([{ method: "POST", path: `/api/designs/d/draft/${kind}`, seen: '"7"' }]);
});
