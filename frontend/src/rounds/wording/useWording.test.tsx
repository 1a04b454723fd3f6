// @vitest-environment jsdom
import { act, cleanup, renderHook } from "@testing-library/react";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { useWording } from "./useWording.ts";

type Waiting = { body: { wording: string; was: string }; answer: (status: number, body: object) => Promise<void> };
let waiting: Waiting[] = [];

beforeEach(() => {
  waiting = [];
  vi.stubGlobal("fetch", (_path: string, init: RequestInit) => {
    const body = JSON.parse(String(init.body)) as Waiting["body"];
    return new Promise<Response>((done) =>
      waiting.push({
        body,
        answer: (status, said) => act(async () => done(new Response(JSON.stringify(said), { status }))),
      }),
    );
  });
});
afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const desk = { id: 1, uid: "a", of: null, wording: "Hello" };

test("a late answer is never overtaken: the next words go out only after it", async () => {
  const { result } = renderHook(() => useWording(desk, 1, () => undefined));
  act(() => {
    result.current.type("Hello A");
    result.current.type("Hello AB");
  });
  expect(waiting.map((w) => w.body.wording)).toEqual(["Hello A"]);
  expect(result.current.seen("Hello from elsewhere")).toBe(false);
  await waiting[0]?.answer(200, { version: 4 });
  expect(waiting.map((w) => [w.body.wording, w.body.was])).toEqual([
    ["Hello A", "Hello"],
    ["Hello AB", "Hello A"],
  ]);
  await waiting[1]?.answer(200, { version: 5 });
  expect(result.current.answer?.version).toBe(5);
  expect(result.current.seen("Hello from elsewhere")).toBe(true);
});

test("a window that is behind shows the other wording, and keeps its own when it is chosen", async () => {
  const { result } = renderHook(() => useWording(desk, 1, () => undefined));
  act(() => result.current.type("Mine"));
  await waiting[0]?.answer(409, { kind: "behind", theirs: "Theirs" });
  expect(result.current.behind).toBe("Theirs");
  await act(async () => result.current.keepMine());
  expect(waiting[1]?.body).toMatchObject({ wording: "Mine", was: "Theirs" });
  await waiting[1]?.answer(200, { version: 6 });
  expect([result.current.behind, result.current.said]).toEqual([null, ""]);
});

test("another refusal is said, and is no other window", async () => {
  const { result } = renderHook(() => useWording(desk, 1, () => undefined));
  act(() => result.current.type("Mine"));
  await waiting[0]?.answer(409, { detail: "Sending started." });
  expect([result.current.behind, result.current.said]).toEqual([null, "Not kept: Sending started."]);
});
