import { filePiece, PIECE_BYTES } from "@/contracts/kept-files";
import { bodyBytes, guarded } from "@/server/auth/guard";
import { ofFile } from "@/server/auth/params";
import { arrived, takePiece } from "@/server/services/kept-files";

/** How much of a file has come. */
export const GET = guarded("technician", { params: ofFile }, ({ user, params }) => arrived(user, params));

/** The next piece of it: ?from=, after how many bytes, &of=, how many in all. */
export const POST = guarded("technician", { params: ofFile }, ({ user, params, request }) =>
  takePiece(user, params, async () => ({
    ...filePiece.parse(Object.fromEntries(new URL(request.url).searchParams)),
    piece: await bodyBytes(request, PIECE_BYTES, `A piece has at most ${PIECE_BYTES / 1024} kB.`),
  })),
);
