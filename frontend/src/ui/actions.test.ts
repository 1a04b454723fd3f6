// @vitest-environment jsdom
import { expect, test } from "vitest";
import { isKey } from "./actions.tsx";

document.body.innerHTML =
  '<input id="box" /><div role="grid" id="grid" tabindex="0"></div><div role="dialog"><button id="over"></button></div><button id="plain"></button>';

type Keys = Partial<KeyboardEventInit>;
const pressed = (key: string, on: string, more: Keys = {}): KeyboardEvent => {
  const event = new KeyboardEvent("keydown", { key, bubbles: true, ...more });
  const target = on ? document.getElementById(on) : document.body;
  target?.dispatchEvent(event);
  return event;
};

const CASES: [string, string, string, Keys, boolean][] = [
  // the key of the action, what is pressed, where, with what, and whether it is that key
  ["?", "?", "plain", { shiftKey: true }, true],
  ["?", "?", "grid", { shiftKey: true }, false],
  ["?", "?", "box", { shiftKey: true }, false],
  ["/", "/", "", {}, true],
  ["Alt w", "w", "grid", { altKey: true }, true],
  ["Alt w", "w", "box", { altKey: true }, true],
  ["Alt w", "w", "grid", {}, false],
  ["Alt w", "∑", "grid", { altKey: true, code: "KeyW" }, true],
  ["Alt w", "w", "grid", { altKey: true, ctrlKey: true }, false],
  ["Alt w", "w", "over", { altKey: true }, false],
  ["Ctrl z", "z", "grid", { ctrlKey: true }, true],
  ["Ctrl z", "z", "grid", { metaKey: true }, true],
  ["Ctrl z", "z", "box", { ctrlKey: true }, false],
  ["Ctrl z", "Z", "grid", { ctrlKey: true, shiftKey: true }, false],
  ["Ctrl k", "k", "box", { ctrlKey: true }, true],
  ["F6", "F6", "box", {}, true],
  ["F6", "F6", "box", { shiftKey: true }, false],
  ["Shift F6", "F6", "box", { shiftKey: true }, true],
  ["ArrowDown", "ArrowDown", "", {}, true],
  ["ArrowDown", "ArrowDown", "plain", {}, false],
];

test.each(CASES)("%s, when %s is pressed in %s", (key, what, on, more, is) => {
  expect(isKey(pressed(what, on, more), key)).toBe(is);
});
