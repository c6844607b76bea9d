/** Times as they are where the person is; the server tells them in UTC. */

function tellTime(time) {
  const date = new Date(time.dateTime);
  const today = "short" in time.dataset && date.toDateString() === new Date().toDateString();
  const form = today ? { timeStyle: "short" } : { dateStyle: "medium", timeStyle: "short" };
  time.textContent = date.toLocaleString([], form);
}

const tellTimes = () => document.querySelectorAll("time[datetime]").forEach(tellTime);

tellTimes();
document.addEventListener("htmx:afterSettle", tellTimes);
