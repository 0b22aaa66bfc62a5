import { register } from "tsx/esm/api";

// What draws pages waits while it is read, which the usual way of reading of a thread cannot: so this thread is plain JavaScript, and reads the rest in its own way.
register();
const { renderPaper } = await import("../../paper/render.tsx");

/** What a thread for paper does: a sheet as a PDF. */
export default ({ args }) => renderPaper(...args);
