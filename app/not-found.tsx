import Link from "next/link";

export default function NotFound() {
  return (
    <main className="p-10 max-w-prose">
      <h1 className="text-2xl">There is nothing here</h1>
      <p className="my-3">The site or page does not exist, or belongs to another organisation.</p>
      <Link className="link" href="/">
        Back to Rounds
      </Link>
    </main>
  );
}
