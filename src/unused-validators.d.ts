// Stands for the types of validation libraries that Superforms can use and this application does not (svelte.config.js): without them, checking types and linting read
// a thousand files fewer.
export {};
