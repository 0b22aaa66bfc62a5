import { createRequire } from "node:module";
import { dirname, join } from "node:path";
import { Document, Font, Image, Page, StyleSheet, Text, View } from "@react-pdf/renderer";
import type { ReactNode } from "react";
import type { PaperSize } from "../contracts/paper.ts";

const FONTS = join(
  dirname(createRequire(import.meta.url).resolve("@fontsource/barlow-semi-condensed/package.json")),
  "files",
);
const FAMILY = "Barlow Semi Condensed";
Font.register({
  family: FAMILY,
  fonts: [400, 600].map((fontWeight) => ({
    src: join(FONTS, `barlow-semi-condensed-latin-${fontWeight}-normal.woff`),
    fontWeight,
  })),
});
// Words are not cut: a name is looked for as it stands.
Font.registerHyphenationCallback((word) => [word]);

const look = StyleSheet.create({
  page: {
    fontFamily: FAMILY,
    fontSize: 9.5,

    paddingTop: 62,
    paddingBottom: 46,
    paddingHorizontal: 40,
  },
  head: {
    position: "absolute",
    top: 24,
    left: 40,
    right: 40,
    flexDirection: "row",
    alignItems: "flex-end",
    borderBottomWidth: 1.2,
    paddingBottom: 3,
  },
  asOf: { position: "absolute", bottom: 22, left: 40, fontSize: 8 },
  number: { position: "absolute", bottom: 22, right: 40, width: 120, textAlign: "right", fontSize: 8 },
  logo: { maxHeight: 28, maxWidth: 120, marginRight: 10, objectFit: "contain" },
  h1: { fontSize: 17, lineHeight: 1.2, fontWeight: 600, marginBottom: 4 },
  h2: { fontSize: 12.5, lineHeight: 1.25, fontWeight: 600, marginTop: 12, marginBottom: 3, borderBottomWidth: 0.8 },
  row: { flexDirection: "row", borderBottomWidth: 0.4, borderColor: "#999" },
  cell: { paddingVertical: 2, paddingHorizontal: 3 },
  strong: { fontWeight: 600 },
});

/** What stands on every page: whose it is, of which site, as of when. @property logo as a data address; null: none */
export type OnEveryPage = {
  title: string;
  site: string;
  organisation: string;
  logo: string | null;
  size: PaperSize;
  /** Revision and date, in words. */
  asOf: string;
  /** "Page 2 of 5". */
  pageOf: (page: number, pages: number) => string;
};

/** A document of as many pages as it takes, to be read in black and white. */
export function Sheet({
  title,
  site,
  organisation,
  logo,
  size,
  asOf,
  pageOf,
  children,
}: OnEveryPage & { children: ReactNode }) {
  return (
    <Document title={`${title}, ${site}`} author={organisation} creator="Presa" producer="Presa">
      <Page size={size} style={look.page}>
        <View style={look.head} fixed>
          {logo && <Image src={logo} style={look.logo} />}
          <View style={{ flexGrow: 1 }}>
            <Text style={look.strong}>{site}</Text>
            <Text style={{ fontSize: 8 }}>{organisation}</Text>
          </View>
          <Text style={look.strong}>{title}</Text>
        </View>
        <Text style={look.asOf} fixed>
          {asOf}
        </Text>
        <Text style={look.number} fixed render={({ pageNumber, totalPages }) => pageOf(pageNumber, totalPages)} />
        {children}
      </Page>
    </Document>
  );
}

export const Title = ({ children }: { children: ReactNode }) => <Text style={look.h1}>{children}</Text>;
/** A part under a head of its own; the head never stands alone at the foot of a page. Not in a box of its own, unless it stays together: tables break best straight on the page. */
export function Part({
  title,
  children,
  together = false,
}: {
  title: string;
  children: ReactNode;
  together?: boolean;
}) {
  const head = (
    <Text style={look.h2} minPresenceAhead={60}>
      {title}
    </Text>
  );
  if (together)
    return (
      <View wrap={false}>
        {head}
        {children}
      </View>
    );
  return (
    <>
      {head}
      {children}
    </>
  );
}
export const Words = ({ children, strong = false }: { children: ReactNode; strong?: boolean }) => (
  <Text style={strong ? [look.strong, { marginBottom: 2 }] : { marginBottom: 2 }}>{children}</Text>
);
/** A warning, as loud as paper is. */
export const Warning = ({ children }: { children: ReactNode }) => (
  <View style={{ borderWidth: 1.2, padding: 5, marginVertical: 5 }} wrap={false}>
    <Text>{children}</Text>
  </View>
);

/** @property share of the width, beside the others' */
export type Column = { head: string; share: number; right?: boolean };
/** A table whose head stands on every page that it runs over. @param tall room to write in each row */
export function Grid({
  columns,
  rows,
  tall = false,
}: {
  columns: readonly Column[];
  rows: readonly (string | null)[][];
  tall?: boolean;
}) {
  const cell = (c: Column) => [
    look.cell,
    { flexGrow: c.share, flexBasis: 0, textAlign: c.right ? ("right" as const) : ("left" as const) },
    // A figure keeps away from the words after it; in the last column it stands at the edge.
    c.right && c !== columns.at(-1) ? { paddingRight: 9 } : {},
  ];
  return (
    <View style={{ marginTop: 3 }}>
      <View style={[look.row, { borderBottomWidth: 0.8, borderColor: "#000" }]} fixed>
        {columns.map((c) => (
          <Text key={c.head} style={[...cell(c), look.strong, { fontSize: 8 }]}>
            {c.head}
          </Text>
        ))}
      </View>
      {rows.map((row, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a page is drawn once
        <View key={i} style={tall ? [look.row, { minHeight: 24 }] : look.row} wrap={false}>
          {columns.map((c, j) => (
            <Text key={c.head} style={cell(c)}>
              {row[j] ?? ""}
            </Text>
          ))}
        </View>
      ))}
    </View>
  );
}

/** Names with what stands beside them; what is empty is left out, or a line to write on. */
export function Facts({ of, lines = false }: { of: readonly (readonly [string, string])[]; lines?: boolean }) {
  return (
    <View>
      {of
        .filter(([, value]) => lines || value !== "")
        .map(([name, value]) => (
          <View key={name} style={{ flexDirection: "row", marginBottom: 1 }} wrap={false}>
            <Text style={{ width: 120 }}>{name}</Text>
            <Text
              style={
                value === ""
                  ? { flexGrow: 1, flexBasis: 0, borderBottomWidth: 0.6, height: 16 }
                  : { flexGrow: 1, flexBasis: 0, fontWeight: 600 }
              }
            >
              {value}
            </Text>
          </View>
        ))}
    </View>
  );
}
