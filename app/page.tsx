import { redirect } from "next/navigation";
import type { FirstRounds } from "@/components/data/use-rounds";
import { Rounds } from "@/components/screens/rounds/rounds";
import { askedOfRounds, roundsQuery } from "@/contracts/rounds";
import { asUser, type InSession, signedIn } from "@/server/auth/session";
import { rounds } from "@/server/services/rounds";

type Search = Record<string, string | string[] | undefined>;

export default async function RoundsPage({ searchParams }: { searchParams: Promise<Search> }) {
  const user = await signedIn();
  if (!user) redirect("/sign-in");
  return <Rounds user={{ name: user.name, role: user.role }} first={await firstOf(user, await searchParams)} />;
}

/** The sites that the address asks for come with the page: one question instead of two, one after the other. */
async function firstOf(user: InSession, search: Search): Promise<FirstRounds | null> {
  const params = new URLSearchParams(
    Object.entries(search).flatMap(([key, value]) => (typeof value === "string" ? [[key, value]] : [])),
  );
  const query = roundsQuery.safeParse(Object.fromEntries(params));
  if (!query.success || params.get("view") === "places") return null;
  const now = new Date();
  const page = await asUser(user, () => rounds(user, query.data, now));
  return { asked: askedOfRounds(params), text: JSON.stringify(page), at: now.getTime() };
}
