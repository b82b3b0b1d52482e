import Alpine from "@alpinejs/csp";
import { drag } from "./drag.js";
import { engine } from "./engine.js";
import { guard } from "./guard.js";
import { hand } from "./hand.js";
import { keys } from "./keys.js";
import { live } from "./live.js";
import { pad } from "./pad.js";
import { rows } from "./rows.js";

Alpine.data("drag", drag);
Alpine.data("engine", engine);
Alpine.data("guard", guard);
Alpine.data("hand", hand);
Alpine.data("keys", keys);
Alpine.data("live", live);
Alpine.data("pad", pad);
Alpine.data("rows", rows);
Alpine.start();
