// What every page has.
import "./drag.js";
import "./held.js";
import "./keys.js";
import "./leaving.js";
import "./network.js";
import "./widgets.js";
