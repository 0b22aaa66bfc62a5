"use client";
import { useConventions } from "@/components/kit/conventions";
import { Mark } from "@/components/kit/notice";
import { FileButton } from "@/components/kit/file-button";
import { Input } from "@/components/kit/inputs";
import { Table } from "@/components/kit/table";
import { Download } from "lucide-react";
import { Button, ButtonLink } from "@/components/kit/button";
import { useState } from "react";
import { PageHead } from "@/components/frame/page-head";
import { DEVICE_WORDS } from "@/components/words/rule-words";
import { request } from "@/components/data/request";
import { type KeptItem, useLibrary } from "@/components/data/use-library";
import { TYPICAL, TYPICAL_NOTE } from "@/core/library/typical";
import { sheetWords } from "./sheet-words";

type Import = {
  kept: number;
  refused: { line: number; problem: string }[];
  others: string[];
  items: KeptItem[];
};

/** The organisation's own devices, and the generic ones to begin with. */
export function LibraryScreen({ canEdit, who }: { canEdit: boolean; who: string }) {
  const { items, problem, drop, adopt } = useLibrary();
  const conventions = useConventions();
  const { date } = conventions;
  const [report, setReport] = useState<Import | null>(null);
  const [failed, setFailed] = useState<string | null>(null);
  const [find, setFind] = useState("");
  const [text, setText] = useState("");
  const take = async (csv: string, replace = false): Promise<void> => {
    setText(csv);
    setReport(null);
    setFailed(null);
    try {
      const outcome = await request<Import>("POST", `/api/library/csv${replace ? "?replace=1" : ""}`, csv);
      adopt(outcome.items);
      setReport(outcome);
    } catch (error) {
      setFailed(error instanceof Error ? error.message : String(error));
    }
  };
  const matches = (name: string, kind: string): boolean =>
    `${name} ${DEVICE_WORDS[kind]}`.toLowerCase().includes(find.toLowerCase());
  const own = items.filter((i) => matches(i.name, i.body.kind));
  const typical = TYPICAL.filter((i) => matches(i.name, i.body.kind));
  return (
    <>
      <PageHead title="Library" who={who} />
      <main className="px-4 pb-6 max-w-6xl">
        <p className="max-w-prose mb-3">
          Data sheets to take on any site: choose "Take its data sheet from the library" at a device, or keep a device's
          sheet here from there.
        </p>
        <div className="flex flex-wrap items-end gap-3 mb-4">
          <label className="w-64">
            <span className="block text-sm text-faint">Find a device</span>
            <Input value={find} onChange={(e) => setFind(e.target.value)} />
          </label>
          <ButtonLink icon={Download} href="/api/library/csv" download>
            Export as CSV
          </ButtonLink>
          {canEdit && (
            <FileButton
              name="Import CSV (same columns as the export)"
              accept=".csv,text/csv"
              onFile={(file) => void file.text().then((csv) => take(csv))}
            >
              Import CSV
            </FileButton>
          )}
        </div>
        {(problem ?? failed) && (
          <p role="alert" className="text-error font-semibold">
            <Mark tone="alarm" /> {problem ?? failed}
          </p>
        )}
        {report && (
          <div role="status" className="border-l-4 border-base-content pl-3 mb-4">
            <p>
              {report.kept} device{report.kept === 1 ? "" : "s"} kept
              {report.refused.length > 0
                ? `, ${report.refused.length} row${report.refused.length === 1 ? "" : "s"} refused:`
                : "."}
            </p>
            {report.others.length > 0 && (
              <p className="my-1 flex flex-wrap items-center gap-3">
                <span>
                  Left as they are, with another sheet in the file: <strong>{report.others.join(", ")}</strong>.
                </span>
                <Button onClick={() => void take(text, true)}>
                  {report.others.length === 1
                    ? "Take the file's sheet"
                    : `Take the file's ${report.others.length} sheets`}
                </Button>
              </p>
            )}
            <ul className="text-sm">
              {report.refused.map((r) => (
                <li key={r.line} className="text-error">
                  <Mark tone="alarm" /> line {r.line}: {r.problem}
                </li>
              ))}
            </ul>
          </div>
        )}
        <h2 className="text-xl border-b-2 border-base-content">Your organisation's ({items.length})</h2>
        {items.length === 0 ? (
          <p className="my-2 max-w-prose">
            Nothing kept yet. On Waterworks, open a device whose sheet you have entered and press "Keep in library", or
            import a CSV.
          </p>
        ) : (
          <Table className="mb-6" aria-label="Your organisation's devices">
            <thead>
              <tr>
                <th>Device</th>
                <th>Kind</th>
                <th>Data sheet</th>
                <th>Note</th>
                <th>Kept by</th>
                {canEdit && <th>Change</th>}
              </tr>
            </thead>
            <tbody>
              {own.map((i) => (
                <tr key={i.id}>
                  <td className="font-semibold">{i.name}</td>
                  <td>{DEVICE_WORDS[i.body.kind]}</td>
                  <td>{sheetWords(i.body, conventions)}</td>
                  <td>{i.note}</td>
                  <td className="text-faint">
                    {i.keptBy}, {date(i.keptAt.slice(0, 10))}
                  </td>
                  {canEdit && (
                    <td>
                      <Button rank="quiet" aria-label={`Take ${i.name} out of the library`} onClick={() => drop(i.id)}>
                        Take out
                      </Button>
                    </td>
                  )}
                </tr>
              ))}
            </tbody>
          </Table>
        )}
        <h2 className="text-xl border-b-2 border-base-content mt-4">Generic: {TYPICAL_NOTE}</h2>
        <Table aria-label="Generic devices">
          <thead>
            <tr>
              <th>Device</th>
              <th>Kind</th>
              <th>Data sheet</th>
            </tr>
          </thead>
          <tbody>
            {typical.map((i) => (
              <tr key={i.name}>
                <td>{i.name}</td>
                <td>{DEVICE_WORDS[i.body.kind]}</td>
                <td>{sheetWords(i.body, conventions)}</td>
              </tr>
            ))}
          </tbody>
        </Table>
      </main>
    </>
  );
}
