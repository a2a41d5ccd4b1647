import fc from "fast-check";

/** A fresh seed for each run; repeatable with the printed SEED=…. */
const seed = Number(process.env.SEED ?? Math.floor(Math.random() * 2 ** 31));
fc.configureGlobal({ seed });
