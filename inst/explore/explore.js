// The explorer's side of the browser: it draws distributions with the report's own figure, and asks R what lies on either side of a
// target. It asks again when the last answer has come, so that a quick hand is followed and nothing queues up.
"use strict";
(function () {
  let waiting = false, next = null, told = null, asked = 0;

  function send() {
    if (waiting || next === null) return;
    waiting = true;
    told = next.tell;
    Shiny.setInputValue("target", { value: next.value, output: next.output, number: ++asked });
    next = null;
  }

  $(document).on("shiny:connected", () => {
    Shiny.addCustomMessageHandler("distribution", (given) => {
      waiting = false;
      next = null;
      const holder = document.getElementById("live-distribution");
      if (!given.outputs[0] || given.outputs[0].good < 2) {
        holder.textContent = "Fewer than two good runs: there is no distribution to show.";
        return;
      }
      window.ensayoDistribution(holder, given, (value, tell) => {
        next = { value: value, tell: tell, output: given.outputs[0].name };
        send();
      });
    });
    Shiny.addCustomMessageHandler("answer", (answer) => {
      if (answer.number === asked) {
        waiting = false;
        if (told) told(answer);
      }
      send();
    });
  });

  document.addEventListener("click", (event) => {
    const button = event.target.closest("[data-copies]");
    if (!button) return;
    const source = document.getElementById(button.dataset.copies);
    const done = () => { button.textContent = "Copied"; setTimeout(() => { button.textContent = "Copy"; }, 1500); };
    if (navigator.clipboard) navigator.clipboard.writeText(source.textContent).then(done, () => {});
    else {
      getSelection().selectAllChildren(source);
      if (document.execCommand("copy")) done();
    }
  });
})();
