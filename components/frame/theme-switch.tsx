"use client";
import { Button } from "@/components/kit/button";
import { useEffect, useState } from "react";

export function ThemeSwitch() {
  const [theme, setTheme] = useState<"day" | "night">("day");
  useEffect(() => setTheme(document.documentElement.dataset["theme"] === "night" ? "night" : "day"), []);
  const change = (): void => {
    const next = theme === "day" ? "night" : "day";
    document.documentElement.dataset["theme"] = next;
    document.cookie = `presa_theme=${next}; path=/; max-age=31536000; samesite=lax`;
    setTheme(next);
  };
  return (
    <Button className="no-print" onClick={change}>
      {theme === "day" ? "Night theme" : "Day theme"}
    </Button>
  );
}
