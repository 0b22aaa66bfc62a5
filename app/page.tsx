import { redirect } from "next/navigation";
import { Rounds } from "@/components/screens/rounds/rounds";
import { roundsQuery } from "@/contracts/rounds";
import { asUser, signedIn } from "@/server/auth/session";
import { rounds } from "@/server/services/rounds";

export default async function RoundsPage({ searchParams }: { searchParams: Promise<Record<string, unknown>> }) {
  const user = await signedIn();
  if (!user) redirect("/sign-in");
  const query = roundsQuery.parse(await searchParams);
  const page = await asUser(user, () => rounds(user, query, new Date()));
  return <Rounds page={page} query={query} user={{ name: user.name, role: user.role }} />;
}
