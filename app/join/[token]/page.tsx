import { JoinScreen } from "@/components/screens/join/join-screen";
import type { Joining } from "@/contracts/people";
import { normalise } from "@/server/app-error";
import { joiningOf } from "@/server/services/people";

/** Where a link that works once leads; whoever holds it need not be signed in. */
export default async function JoinPage({ params }: { params: Promise<{ token: string }> }) {
  const { token } = await params;
  const joining: Joining | string = await joiningOf(token, new Date()).catch((error) => normalise(error).message);
  return <JoinScreen token={token} joining={joining} />;
}
