"use client";
import { X } from "lucide-react";
import Link from "next/link";
import { usePathname, useSearchParams } from "next/navigation";
import { useState } from "react";
import { useSharedList } from "@/components/data/shared-list";
import { Button, IconButton } from "@/components/kit/button";
import { Input } from "@/components/kit/inputs";
import { Menu } from "@/components/kit/menu";
import { Problem } from "@/components/kit/notice";
import type { SavedView, ViewScreen } from "@/contracts/views";

/** A page is where somebody was, no view of its own. */
function asView(params: URLSearchParams): string {
  const kept = new URLSearchParams(params);
  kept.delete("page");
  return kept.toString();
}

/** What somebody looks at often on a screen: found, sorted and shown as it was when they gave it a name. */
export function SavedViews({ screen }: { screen: ViewScreen }) {
  const path = usePathname();
  const now = asView(useSearchParams());
  const { items, problem, send } = useSharedList<SavedView>("/api/views");
  const [name, setName] = useState("");
  const views = items.filter((v) => v.screen === screen);
  const here = views.find((v) => v.query === now);
  return (
    <Menu label={here ? here.name : "Views"} name={here ? `Views, now ${here.name}` : "Views"} end>
      {(close) => (
        <>
          {now !== "" && (
            <Link href={path} className="btn btn-ghost btn-sm justify-start" onClick={close}>
              As it usually is
            </Link>
          )}
          {views.map((v) => (
            <div key={v.id} className="flex items-center">
              <Link
                href={`${path}?${v.query}`}
                aria-current={v === here ? "page" : undefined}
                className="btn btn-ghost btn-sm grow justify-start"
                onClick={close}
              >
                {v.name}
              </Link>
              <IconButton
                label={`Take out the view ${v.name}`}
                icon={X}
                onClick={() => void send("DELETE", `/api/views/${v.id}`)}
              />
            </div>
          ))}
          <form
            className="flex gap-1 border-t border-base-300 p-1"
            onSubmit={(e) => {
              e.preventDefault();
              void send("POST", "/api/views", { screen, name, query: now }).then((done) => done && setName(""));
            }}
          >
            <Input
              className="w-40"
              aria-label="Name of what is shown"
              placeholder="Keep what is shown as"
              maxLength={60}
              value={name}
              onChange={(e) => setName(e.target.value)}
            />
            <Button type="submit" disabled={name.trim() === ""}>
              Keep
            </Button>
          </form>
          {problem && <Problem>{problem}</Problem>}
        </>
      )}
    </Menu>
  );
}
