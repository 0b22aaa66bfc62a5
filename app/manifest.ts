import type { MetadataRoute } from "next";

/** What a phone needs to put Presa on its home screen. */
export default function manifest(): MetadataRoute.Manifest {
  return {
    id: "/field",
    name: "Presa",
    short_name: "Presa",
    description: "Walk, learn, prove, alarms and visits at the valve box, with or without a connection",
    start_url: "/field",
    // Signing in, and the office, are within it too; what is kept on the phone is /field alone.
    scope: "/",
    display: "standalone",
    background_color: "#fcfbf6",
    theme_color: "#1c5f7c",
    icons: [
      { src: "/icons/192.png", sizes: "192x192", type: "image/png" },
      { src: "/icons/512.png", sizes: "512x512", type: "image/png" },
      { src: "/icons/maskable.png", sizes: "512x512", type: "image/png", purpose: "maskable" },
    ],
  };
}
