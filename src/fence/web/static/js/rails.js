/** A narrow screen gets narrow pictures: the server draws them, so it is told how wide they may be. */

export const pickets = window.matchMedia("(max-width: 600px)").matches ? "32" : "64";

const told = document.cookie.split("; ").includes("rail=" + pickets);
document.cookie = "rail=" + pickets + "; path=/; max-age=31536000; samesite=lax";
const drawn = document.querySelector("svg[data-pickets]");
if (!told && drawn && drawn.dataset.pickets !== pickets) location.reload();
