// A refused form is shown on its page again, at the address it was sent to, where nothing can be asked for. Read first:
// to look again, to reload and to come back go by the page's own address.
const { at } = document.body.dataset;
if (at) history.replaceState(history.state, "", at);
