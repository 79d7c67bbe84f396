// The page that opens without a network: which visits are kept on this device.
import { find } from "../ui/dom.js";
import { visitsHere } from "./on-this-device.js";

const { programme, person } = find("#away").dataset;
const list = find("#visits-here");
const mine = visitsHere().filter((one) => one.programme === programme && one.person === person);
for (const { name, address, bytes } of mine) {
  const link = Object.assign(document.createElement("a"), { href: address, textContent: name });
  const size = document.createElement("span");
  size.className = "soft";
  size.textContent = ` ${(bytes / 1e6).toFixed(1)} MB`;
  const row = document.createElement("li");
  row.append(link, size);
  list.append(row);
}
find("#none-here").hidden = mine.length > 0;
