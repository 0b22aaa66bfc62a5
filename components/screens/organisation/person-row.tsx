"use client";
import { KeyRound, LogOut, MapPinned, ShieldOff, UserX } from "lucide-react";
import { Button } from "@/components/kit/button";
import { useConventions } from "@/components/kit/conventions";
import { Select } from "@/components/kit/inputs";
import { Menu } from "@/components/kit/menu";
import type { Person, PersonAction, Role } from "@/contracts/people";
import { ROLES } from "@/contracts/roles";

/** Somebody of the organisation, and what a manager does about them. */
export function PersonRow({
  person,
  isMe,
  onAct,
  onSites,
  onTakeOut,
}: {
  person: Person;
  isMe: boolean;
  onAct: (asked: PersonAction) => void;
  onSites: () => void;
  onTakeOut: () => void;
}) {
  const { here } = useConventions();
  const { name, email, role, sites, twoFactor, seenAt } = person;
  return (
    <tr>
      <td>
        <span className="font-semibold">{name}</span>
        {isMe && <span className="text-faint"> (you)</span>}
        <div className="break-all text-xs text-faint">{email}</div>
      </td>
      <td>
        <Select
          className="w-36 max-sm:w-28"
          aria-label={`Role of ${name}`}
          value={role}
          onChange={(e) => onAct({ action: "role", role: e.target.value as Role })}
        >
          {[...ROLES].reverse().map((r) => (
            <option key={r} value={r}>
              {r}
            </option>
          ))}
        </Select>
      </td>
      <td className="max-sm:hidden">{sites === null ? "all" : `${sites} of them`}</td>
      <td className="max-sm:hidden">{twoFactor ? "set up" : <span className="text-faint">none</span>}</td>
      <td className="whitespace-nowrap max-sm:hidden">
        {seenAt ? here(seenAt) : <span className="text-faint">signed in nowhere</span>}
      </td>
      <td className="text-right">
        <Menu label="More" name={`More about ${name}`} end>
          {(close) => {
            const item = (icon: typeof LogOut, words: string, run: () => void) => (
              <Button
                rank="quiet"
                icon={icon}
                className="justify-start"
                onClick={() => {
                  close();
                  run();
                }}
              >
                {words}
              </Button>
            );
            return (
              <>
                {role !== "manager" && item(MapPinned, "Sites they see…", onSites)}
                {item(KeyRound, "Link for another password", () => onAct({ action: "newPassword" }))}
                {seenAt && !isMe && item(LogOut, "Sign out everywhere", () => onAct({ action: "signOut" }))}
                {twoFactor &&
                  !isMe &&
                  item(ShieldOff, "Take the second step off", () => onAct({ action: "dropTwoFactor" }))}
                {!isMe && item(UserX, "Take out…", onTakeOut)}
              </>
            );
          }}
        </Menu>
      </td>
    </tr>
  );
}
