// x-shows="value": what a text field shows while nobody types in it. What is being typed stays, whatever answer arrives meanwhile.
export function shows(alpine) {
  alpine.directive("shows", (el, { expression }, { evaluateLater, effect, cleanup }) => {
    const evaluate = evaluateLater(expression);
    let typing = false;
    const begun = () => {
        typing = true;
      },
      ended = () => {
        typing = false;
      };
    const heard = { input: begun, change: ended, blur: ended };
    for (const [name, hear] of Object.entries(heard)) el.addEventListener(name, hear);
    cleanup(() => {
      for (const [name, hear] of Object.entries(heard)) el.removeEventListener(name, hear);
    });
    effect(() =>
      evaluate((value) => {
        if (!typing && el.value !== (value ?? "")) el.value = value ?? "";
      }),
    );
  });
}
