import { useEffect, useState } from "react";

/** Files dropped anywhere on the page; true while one hovers over it. */
export function useFileDrop(onFiles: (files: File[]) => void): boolean {
  const [dragging, setDragging] = useState(false);
  useEffect(() => {
    let depth = 0;
    const holdsFiles = (event: DragEvent) => event.dataTransfer?.types.includes("Files") ?? false;
    const enter = (event: DragEvent) => {
      if (!holdsFiles(event)) return;
      event.preventDefault();
      depth += 1;
      setDragging(true);
    };
    const over = (event: DragEvent) => holdsFiles(event) && event.preventDefault();
    const leave = (event: DragEvent) => {
      if (!holdsFiles(event)) return;
      depth = Math.max(0, depth - 1);
      setDragging(depth > 0);
    };
    const drop = (event: DragEvent) => {
      if (!holdsFiles(event)) return;
      event.preventDefault();
      depth = 0;
      setDragging(false);
      const files = [...(event.dataTransfer?.files ?? [])];
      if (files.length > 0) onFiles(files);
    };
    const listeners = { dragenter: enter, dragover: over, dragleave: leave, drop };
    for (const [name, listen] of Object.entries(listeners))
      window.addEventListener(name, listen as EventListener);
    return () => {
      for (const [name, listen] of Object.entries(listeners))
        window.removeEventListener(name, listen as EventListener);
    };
  }, [onFiles]);
  return dragging;
}
