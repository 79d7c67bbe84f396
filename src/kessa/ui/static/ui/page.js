// What every page does.
import * as clocks from "../bench/clocks-everywhere.js";
import { sendLeftBehind } from "../bench/left-behind.js";
import * as findTest from "./find-test.js";
import * as forms from "./forms.js";
import * as keys from "./keys.js";
import * as notLoaded from "./not-loaded.js";
import * as signOut from "./sign-out.js";
import * as theme from "./theme.js";

for (const part of [theme, keys, forms, findTest, signOut, notLoaded, clocks]) part.listen();
sendLeftBehind();
