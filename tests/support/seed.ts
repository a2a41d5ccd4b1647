import fc from "fast-check";

/** A fresh seed for each run; the same one again with SEED=…, as it is printed. */
const seed = Number(process.env.SEED ?? Math.floor(Math.random() * 2 ** 31));
fc.configureGlobal({ seed });
