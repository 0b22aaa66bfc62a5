import { type NextRequest, NextResponse } from "next/server";

/** A content security policy with a nonce a request: no script runs that this server did not write. WebAssembly may: the network solver is compiled to it. */
export function proxy(request: NextRequest): NextResponse {
  const nonce = btoa(crypto.randomUUID());
  const policy = [
    "default-src 'self'",
    // React's development build evaluates; the built one never does.
    `script-src 'self' 'nonce-${nonce}' 'strict-dynamic' 'wasm-unsafe-eval'${process.env.NODE_ENV === "development" ? " 'unsafe-eval'" : ""}`,
    "style-src 'self' 'unsafe-inline'",
    "img-src 'self' data: blob:",
    "font-src 'self'",
    "connect-src 'self'",
    "worker-src 'self' blob:",
    "object-src 'none'",
    "base-uri 'none'",
    "form-action 'self'",
    "frame-ancestors 'none'",
  ].join("; ");
  const headers = new Headers(request.headers);
  headers.set("x-nonce", nonce);
  headers.set("content-security-policy", policy);
  const response = NextResponse.next({ request: { headers } });
  response.headers.set("content-security-policy", policy);
  return response;
}

/** Pages: what is no page has a policy that never changes (next.config.ts). */
export const config = {
  matcher: [
    "/((?!_next/static|_next/image|favicon.ico|icons/|service-worker.js|manifest.webmanifest|api/|healthz|readyz|metrics).*)",
  ],
};
