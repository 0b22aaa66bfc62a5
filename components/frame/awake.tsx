"use client";
import { useEffect } from "react";

/**
 * The page is sent `inert`, so that nothing on it can be pressed before it answers: a press that came sooner would be lost without a word.
 * Once its code runs, it is awake.
 */
export function Awake() {
  useEffect(() => {
    document.body.inert = false;
  }, []);
  return null;
}
