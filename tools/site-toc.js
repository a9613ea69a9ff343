(() => {
  const holder = document.querySelector("#toc"), heads = [...document.querySelectorAll("main h2[id]")];
  if (!holder || heads.length < 2) return;
  const list = document.createElement("ul");
  for (const head of heads) {
    const link = document.createElement("a"), row = document.createElement("li");
    link.href = "#" + head.id;
    link.textContent = head.firstChild.textContent.trim();
    row.append(link);
    list.append(row);
  }
  holder.append(list);
})();
