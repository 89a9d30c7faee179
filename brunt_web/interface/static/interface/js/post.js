// The one way in which a script sends something to the server: signed with this session's token.

export const token = () => document.querySelector("[name=csrfmiddlewaretoken]")?.value ?? "";

/**
 * @param {string} address
 * @param {Object<string, any> | string[][] | FormData} [fields] sent as a form; files need form data
 * @param {{part?: string, headers?: Object<string, string>, keepalive?: boolean}} [how]
 *   `part` names the fragment of the page that is asked for
 * @returns {Promise<Response>}
 */
export function post(address, fields = {}, { part = "", headers = {}, ...how } = {}) {
  return fetch(address, {
    method: "POST",
    body: fields instanceof FormData ? fields : new URLSearchParams(fields),
    headers: { "X-CSRFToken": token(), ...(part ? { "X-Part": part } : {}), ...headers },
    ...how,
  });
}
