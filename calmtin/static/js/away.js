// The page that stands in for a bench that does not answer: it comes back to where the maker was.
document.getElementById("again").addEventListener("click", () => location.reload());
addEventListener("online", () => location.reload());
