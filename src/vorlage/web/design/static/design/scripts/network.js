// When the server cannot be reached it is said; nothing typed is touched. When it can be again, that is seen at once.

/** Says whether the server answers. */
export function reached(answers) {
  document.getElementById("offline").hidden = answers;
}

document.addEventListener("htmx:sendError", () => reached(false));
document.addEventListener("htmx:timeout", () => reached(false));
document.addEventListener("htmx:afterRequest", (event) => {
  if (event.detail.successful) reached(true);
});
// the network is back: what could not be sent is asked for
window.addEventListener("online", () => document.dispatchEvent(new CustomEvent("reachable")));
window.addEventListener("offline", () => reached(false));

// A request that a later one replaces, or that ends because the page is left, is no error; htmx writes it down as one.
document.addEventListener("htmx:beforeSend", (event) => {
  const request = event.detail.xhr;
  const ended = request.onabort;
  request.onabort = (stop) => {
    const write = console.error;
    console.error = () => {};
    try {
      ended.call(request, stop);
    } finally {
      console.error = write;
    }
  };
});
