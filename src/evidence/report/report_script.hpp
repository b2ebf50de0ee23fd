#pragma once
// Script of the report: tables that sort, pictures that open large, details that open for printing. The page says
// everything without it.

namespace dotsift {

inline constexpr const char* report_script = R"js(
'use strict';
for (const table of document.querySelectorAll('table.sortable')) {
  const body = table.tBodies[0];
  [...table.tHead.rows[0].cells].forEach((head, column) => {
    const button = document.createElement('button');
    button.type = 'button';
    button.title = 'sort by this column';
    while (head.firstChild) button.append(head.firstChild);
    head.append(button);
    button.addEventListener('click', () => {
      const falling = head.getAttribute('aria-sort') === 'ascending';
      for (const other of head.parentElement.cells) other.removeAttribute('aria-sort');
      head.setAttribute('aria-sort', falling ? 'descending' : 'ascending');
      const key = row => {
        const cell = row.cells[column];
        return cell.dataset.v === undefined ? cell.textContent : Number(cell.dataset.v);
      };
      const compare = (a, b) => typeof a === 'number' && typeof b === 'number' ? a - b
        : typeof a === 'number' ? -1 : typeof b === 'number' ? 1 : a.localeCompare(b);
      const rows = [...body.rows].sort((a, b) => compare(key(a), key(b)));
      if (falling) rows.reverse();
      body.append(...rows);
    });
  });
}
const large = document.createElement('dialog');
large.setAttribute('aria-label', 'picture, large');
large.innerHTML = '<button type="button" autofocus>close</button><img alt=""><p></p>';
document.body.append(large);
const shown = large.querySelector('img');
for (const button of document.querySelectorAll('button.zoom'))
  button.addEventListener('click', () => {
    const picture = button.querySelector('img');
    shown.src = picture.src;
    shown.alt = picture.alt;
    shown.className = picture.className;
    large.querySelector('p').textContent = button.parentElement.querySelector('figcaption').textContent;
    large.showModal();
  });
large.addEventListener('click', () => large.close());
let closed = [];
addEventListener('beforeprint', () => {
  closed = [...document.querySelectorAll('details:not([open])')];
  for (const d of closed) d.open = true;
});
addEventListener('afterprint', () => { for (const d of closed) d.open = false; });
)js";

}  // namespace dotsift
