// The layout engine hears and answers by itself where it finds itself in a worker.
import "elkjs/lib/elk-worker.min.js";
