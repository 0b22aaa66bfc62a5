"use client";
import { Download, FileSpreadsheet } from "lucide-react";
import { Button } from "./button";
import { saveText } from "./save-file";
import { saveSheet } from "./save-sheet";

/** A table taken away: as CSV for other programs, as XLSX for people. @param name of the file, without its ending */
export function TakenAway({ csv, name }: { csv: () => string; name: string }) {
  return (
    <>
      <Button rank="quiet" icon={Download} onClick={() => saveText(csv(), `${name}.csv`, "text/csv")}>
        CSV
      </Button>
      <Button rank="quiet" icon={FileSpreadsheet} onClick={() => void saveSheet(csv(), `${name}.xlsx`)}>
        XLSX
      </Button>
    </>
  );
}
