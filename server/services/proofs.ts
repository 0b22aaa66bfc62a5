import type { Met } from "../../contracts/entries.ts";
import { prove, type ProvingRow } from "../../core/sensors/proving.ts";
import type { Device, FlowSensor, SiteFile } from "../../core/site-file/schema.ts";
import { AppError } from "../app-error.ts";
import type { SignedIn } from "../auth/session.ts";
import { inTransaction } from "../db/connection.ts";
import { amendSite, loadSite } from "./sites.ts";

type Asked = { sensorId: string; against: FlowSensor["output"]; rows: ProvingRow[] };

/**
 * Proves a flow sensor by what was noted at the meter, as the desk does, and keeps constant and evidence as a revision. Refused where the sensor has another constant by now
 * than whoever proved it saw (`met`), and where the tests do not prove it.
 */
export async function proveSensor(
  user: SignedIn,
  siteId: string,
  { sensorId, against, rows }: Asked,
  at: Date,
): Promise<void> {
  await inTransaction(async () => {
    const sensor = sensorOf((await loadSite(user, siteId)).file, sensorId);
    if (JSON.stringify(sensor.output) !== JSON.stringify(against))
      throw new AppError(
        "conflict",
        "The constant of this sensor was changed meanwhile. Look at it and say again; nothing was changed.",
        { met: { why: "constant", now: sensor.output } satisfies Met },
      );
    const proved = prove(sensor, rows);
    if (!proved.ok)
      throw new AppError("badRequest", `These tests do not prove the sensor (${proved.refusal.code}). Test it again.`);
    const { output, worstPercent, tests } = proved.value;
    const proving = {
      at: at.toISOString(),
      by: user.name,
      worstPercent: Math.min(1000, Number(worstPercent.toFixed(6))),
      tests: tests.map(({ hz, litres, seconds }) => ({ hz, litres, seconds })),
    };
    await amendSite(user, siteId, `${sensor.name ?? "Flow sensor"} proved against the meter`, (file) =>
      withProof(file, sensorId, output, proving),
    );
  });
}

function sensorOf(file: SiteFile, id: string): FlowSensor {
  const found = devicesOf(file).find((d): d is FlowSensor => d.id === id && d.kind === "flowSensor");
  if (!found) throw new AppError("notFound", "This site has no such flow sensor any more.");
  return found;
}
const devicesOf = (file: SiteFile): Device[] => [...file.pocs, ...file.mainlines].flatMap((p) => p.devices ?? []);

type Proving = NonNullable<FlowSensor["provings"]>[number];
function withProof(file: SiteFile, id: string, output: FlowSensor["output"], proving: Proving): SiteFile {
  const proved = <T extends Device>(d: T): T =>
    d.id === id && d.kind === "flowSensor" ? { ...d, output, provings: [...(d.provings ?? []), proving] } : d;
  const within = <P extends { devices?: Device[] | undefined }>(p: P): P =>
    p.devices ? { ...p, devices: p.devices.map(proved) } : p;
  return { ...file, pocs: file.pocs.map(within), mainlines: file.mainlines.map(within) };
}
