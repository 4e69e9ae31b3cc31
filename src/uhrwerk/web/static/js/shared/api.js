// Calls of the server. A refused call throws an Error with `status`, `fields` and `current`.
let sending = 0; // calls under way that may change something

export const underWay = () => sending > 0;

/**
 * @param {string} method
 * @param {string} path
 * @param {any} [body] data, or a file
 * @param {AbortSignal} [signal]
 */
export async function call(method, path, body, signal) {
  let answer;
  const file = body instanceof Blob;
  const sent =
    body === undefined
      ? {}
      : {
          headers: { "content-type": file ? "application/octet-stream" : "application/json" },
          body: file ? body : JSON.stringify(body),
        };
  if (method !== "GET") sending += 1;
  try {
    answer = await fetch(path, { method, signal, ...sent });
  } catch {
    throw Object.assign(new Error("The server does not answer. Check that it is running; what you typed is kept."), {
      status: 0,
      fields: [],
    });
  } finally {
    if (method !== "GET") sending -= 1;
  }
  if (answer.ok) return answer;
  const refusal = await answer.json().catch(() => ({}));
  throw Object.assign(new Error(refusal.error || `The server answered ${answer.status}.`), {
    status: answer.status,
    fields: refusal.fields || [],
    current: refusal.current,
  });
}

/**
 * The answer of a call as data; null where there is none.
 * @template {string} M
 * @template {string} P
 * @param {M} method
 * @param {P} path
 * @param {any} [body]
 * @param {AbortSignal} [signal]
 * @returns {Promise<Answer<M, P>>}
 */
export async function json(method, path, body, signal) {
  const answer = await call(method, path, body, signal);
  return answer.status === 204 ? null : answer.json();
}

/** @param {string} path */
export async function block(path) {
  return (await call("GET", path)).arrayBuffer();
}

// A body's triangles and edges; the layout stands in core/views/scene.py.
/** @param {ArrayBuffer} buffer */
export function readMesh(buffer) {
  const [vertices, triangles, edges, faces] = new Uint32Array(buffer, 0, 4);
  let at = 16;
  const take = (type, count, bytes) => {
    const out = new type(buffer, at, count);
    at += count * bytes;
    return out;
  };
  const mesh = {
    position: take(Float32Array, vertices * 3, 4),
    index: take(Uint32Array, triangles * 3, 4),
    edges: take(Float32Array, edges * 6, 4),
    faceOf: take(Uint16Array, triangles, 2),
  };
  at += (4 - (at % 4)) % 4;
  mesh.datumOf = take(Int16Array, faces, 2);
  return mesh;
}

// The poses of all parts at every frame; the layout stands in core/views/placed.py.
/** @param {ArrayBuffer} buffer */
export function readPoses(buffer) {
  const [frames, parts] = new Uint32Array(buffer, 0, 2);
  return { frames, parts, data: new Float32Array(buffer, 8) };
}

// gives a file to be kept
export function save(content, name) {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(content);
  link.download = name;
  link.click();
  URL.revokeObjectURL(link.href);
}
