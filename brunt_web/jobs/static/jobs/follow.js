// Follows a job to its end: how far it is in words and as a bar; a lost link is waited out.
const PAUSE = 500;

export const wordsOf = (told) => {
  if (told.over) return told.words;
  if (told.state === "waiting") {
    if (!told.worker) return "Waiting: no worker has been heard of for a while; it goes on when one is there.";
    return told.ahead ? `Waiting: ${told.ahead} before it.` : "Begins at once.";
  }
  if (told.silent)
    return "Its worker has stopped responding. The job is restarted automatically, three times at most. Nothing is saved yet.";
  if (told.attempt > 1 && !told.total)
    return `Being worked on, for the ${told.attempt === 2 ? "second" : "third"} time: its worker was ended.`;
  if (!told.total) return "Being worked on.";
  const count = (n) => (told.unit === "MB" ? (n / 1e6).toFixed(0) : n.toLocaleString("en-GB").replaceAll(",", " "));
  return `${count(told.done)} of ${count(told.total)} ${told.unit}`;
};

export async function follow(address, say) {
  for (;;) {
    let told = null;
    try {
      const answer = await fetch(`${address}state/`, { headers: { "X-Part": "job" } });
      if (answer.ok) told = await answer.json();
      else if (answer.status === 404) return null;
    } catch {
      /* the link is away; the job is not */
    }
    if (told) say(told, wordsOf(told));
    if (told?.over) return told;
    await new Promise((done) => setTimeout(done, PAUSE));
  }
}

// The answer of a form sent by a script: at once, or when the worker has it.
export async function answered(answer, say) {
  if (answer.status !== 202) return answer;
  const { job } = await answer.json();
  await follow(job, say);
  return fetch(`${job}answer/`, { headers: { "X-Part": "job" } });
}

// How far, on a progress element and a place for words.
export const shown = (bar, place) => (told, words) => {
  if (told.total) {
    bar.max = told.total;
    bar.value = told.done;
  } else bar.removeAttribute("value");
  place.textContent = words;
};
