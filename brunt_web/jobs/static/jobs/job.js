// A job's page: moves while it is worked on, and becomes the answer when that is there.
import { follow, shown } from "./follow.js";

const sheet = document.querySelector("[data-job]");
if (sheet) {
  await follow(sheet.dataset.job, shown(sheet.querySelector("progress"), sheet.querySelector("[data-words]")));
  location.replace(sheet.dataset.job);
}
