// The layout engine away from the page's own thread: in a worker it answers messages by itself.
import 'elkjs/lib/elk-worker.min.js';
