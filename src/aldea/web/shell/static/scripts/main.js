// What every page does; benches bring their own scripts beside it.

import * as choices from "./choices.js";
import * as keep from "./keep.js";
import * as keys from "./keys.js";
import * as rail from "./rail.js";
import * as remade from "./remade.js";
import * as sending from "./sending.js";

for (const part of [choices, keep, keys, remade, sending, rail]) part.start();
const reload = document.body.dataset.reloadS;
if (reload) setTimeout(() => location.reload(), Number(reload) * 1000);
