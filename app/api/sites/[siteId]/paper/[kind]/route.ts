import { paperLetterRequest, paperQuery } from "@/contracts/paper";
import { guarded } from "@/server/auth/guard";
import { ofPaper } from "@/server/auth/params";
import { mailPaper, paper } from "@/server/services/paper";

/** A sheet of a site as a PDF. */
export const GET = guarded("viewer", { params: ofPaper }, async ({ user, params, request }) => {
  const query = paperQuery.parse(Object.fromEntries(new URL(request.url).searchParams));
  const { content, name } = await paper(user, params.siteId, params.kind, query, new Date());
  return new Response(Buffer.from(content), {
    headers: {
      "content-type": "application/pdf",
      "content-disposition": `${query.download ? "attachment" : "inline"}; filename="${name}"`,
    },
  });
});
/** The same by mail. */
export const POST = guarded("technician", { params: ofPaper, body: paperLetterRequest }, ({ user, params, body }) =>
  mailPaper(user, params.siteId, params.kind, body, new Date()),
);
