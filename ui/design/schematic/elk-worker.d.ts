declare module 'elkjs/lib/elk-worker.min.js';
