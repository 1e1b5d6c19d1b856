import { useState } from "react";
import type { Me } from "~/api/client";

const KEY = "fortimetra.left-handed";

/** What was chosen on this device. */
export function isLeftHanded(): boolean {
  return localStorage.getItem(KEY) === "yes";
}

/** Which way the neck is drawn: a student's own hand, until somebody chooses otherwise on this device. */
export function useHand(me: Me): readonly [boolean, (leftHanded: boolean) => void] {
  const [leftHanded, setLeftHanded] = useState(() => {
    const chosen = localStorage.getItem(KEY);
    return chosen === null ? me.left_handed : chosen === "yes";
  });
  const choose = (next: boolean) => {
    localStorage.setItem(KEY, next ? "yes" : "no");
    setLeftHanded(next);
  };
  return [leftHanded, choose];
}
