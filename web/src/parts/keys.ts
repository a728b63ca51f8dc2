// Keyboard: single keys work wherever no text is being typed.
import { useEffect, useRef } from "react";

export const KEY_HELP: [string, string][] = [
  ["/", "search"],
  ["j  k", "next and previous row"],
  ["x", "select the row"],
  ["J  K", "move the row in the load order"],
  ["a", "add the mod that is open"],
  ["c", "compare the mod"],
  ["Enter", "open the row's sheet"],
  ["Esc", "close the sheet"],
  ["u  U", "undo and redo"],
  ["?", "this list"],
];

function typing(target: EventTarget | null): boolean {
  return target instanceof HTMLElement && (target.isContentEditable || ["INPUT", "TEXTAREA", "SELECT"].includes(target.tagName));
}

export function useKeys(handlers: Record<string, (event: KeyboardEvent) => void>) {
  const latest = useRef(handlers);
  useEffect(() => {
    latest.current = handlers;
  });
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      if (event.ctrlKey || event.metaKey || event.altKey || (typing(event.target) && event.key !== "Escape")) return;
      const handle = latest.current[event.key];
      if (!handle || document.querySelector('[role="dialog"], [role="menu"], [role="listbox"]')) return;
      event.preventDefault();
      handle(event);
    };
    window.addEventListener("keydown", listen);
    return () => window.removeEventListener("keydown", listen);
  }, []);
}
