import swc from "@swc/jest";

/**
 * What every module reads off its own scope rather than off the context's global object: a test's context answers each such reading through an
 * interceptor, which makes loops over the dots of a picture ten times as slow. Nothing that tests put others in place of, such as Date.
 */
const fixed = ["Array", "JSON", "Map", "Math", "Number", "Object", "Set", "String", "Uint8Array"];
const scope = `const {${fixed.join(",")}}=globalThis;`;

const transform = {
  createTransformer(options) {
    const made = swc.createTransformer(options);
    const scoped = (result) => ({ ...result, code: scope + result.code });
    return {
      ...made,
      process: (...given) => scoped(made.process(...given)),
      processAsync: async (...given) => scoped(await made.processAsync(...given)),
      getCacheKey: (...given) => `${made.getCacheKey(...given)}-${fixed.length}`,
    };
  },
};
export default transform;
