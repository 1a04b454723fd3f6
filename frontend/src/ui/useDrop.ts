import { useEffect, useRef, useState } from "react";

/** Catches a file that is dropped anywhere in the window; gives back whether one is held over it. */
export function useDrop(onFile: (file: File) => void): boolean {
  const [over, setOver] = useState(false);
  const listener = useRef(onFile);
  useEffect(() => {
    listener.current = onFile;
  }, [onFile]);
  useEffect(() => {
    const onOver = (e: DragEvent) => {
      // Words that are dragged within a box are the box's own.
      if (!e.dataTransfer?.types.includes("Files")) return;
      e.preventDefault();
      setOver(true);
    };
    const onLeave = (e: DragEvent) => !e.relatedTarget && setOver(false);
    const onDrop = (e: DragEvent) => {
      setOver(false);
      const file = e.dataTransfer?.files[0];
      if (!file) return;
      e.preventDefault();
      listener.current(file);
    };
    window.addEventListener("dragover", onOver);
    window.addEventListener("dragleave", onLeave);
    window.addEventListener("drop", onDrop);
    return () => {
      window.removeEventListener("dragover", onOver);
      window.removeEventListener("dragleave", onLeave);
      window.removeEventListener("drop", onDrop);
    };
  }, []);
  return over;
}
