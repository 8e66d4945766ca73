"use strict";
// The page works without this; it only says that reading goes on.
document.querySelector("form").addEventListener("submit", (event) => {
  const shows = event.target.elements.as.value === "page";
  document.getElementById("state").textContent = shows ? "Reading ..." : "Reading; the file comes when it is done.";
});
