"use client";
import { Download, FileSpreadsheet } from "lucide-react";
import { Button } from "./button";
import { saveText } from "./save-file";
import { saveSheet } from "./save-sheet";

/** A table taken away: as CSV for other programs, as XLSX for people. @param of what it is, where several stand on a screen @param name of the file, without its ending */
export function TakenAway({ csv, name, of }: { csv: () => string | Promise<string>; name: string; of?: string }) {
  const said = of ? <span className="sr-only"> of {of}</span> : null;
  return (
    <>
      <Button rank="quiet" icon={Download} onClick={async () => saveText(await csv(), `${name}.csv`, "text/csv")}>
        <span>CSV{said}</span>
      </Button>
      <Button rank="quiet" icon={FileSpreadsheet} onClick={async () => saveSheet(await csv(), `${name}.xlsx`)}>
        <span>XLSX{said}</span>
      </Button>
    </>
  );
}
