// Reads PDF files, away from what is drawn.
import "pdfjs-dist/build/pdf.worker.min.mjs";
