import swc from "@swc/jest";

/**
 * What every module reads off its own scope rather than off the context's global object: a test's context answers each such reading through an
 * interceptor, which makes loops over the dots of a picture ten times as slow. Nothing that tests put others in place of, such as Date.
 */
const fixed = ["Array", "JSON", "Map", "Math", "Number", "Object", "Set", "String", "Uint8Array"];
const scope = `const {${fixed.join(",")}}=globalThis;`;

/** What is not ours is plain JavaScript: it only gets the scope. Of those listed in the configuration, where it shows. */
const asItIs = { process: (code) => ({ code: scope + code }), getCacheKey: (code, file) => `${file}-${code.length}-${fixed.length}` };

const transform = {
  createTransformer(options) {
    if (options?.isOnlyScoped) return asItIs;
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
