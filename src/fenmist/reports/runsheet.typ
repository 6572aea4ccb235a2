// The run sheet: what to set and what to read, with room to write.
#let s = json(bytes(sys.inputs.content))
#let ink = rgb("#1B2A30")
#let second = rgb("#50626B")
#let hairline = rgb("#C9D3D7")
#let stop = rgb("#8A1538")

#set document(title: s.title, author: "Fenmist")
#set page(
  paper: sys.inputs.paper, margin: (x: 14mm, top: 16mm, bottom: 16mm),
  footer: context [#text(8pt, fill: second)[#s.title · #s.date #h(1fr) page #counter(page).display() of #counter(page).final().first()]],
)
#set text(font: json(bytes(sys.inputs.fonts)), size: 8.5pt, fill: ink, lang: "en", number-width: "tabular")

#text(14pt, weight: 600)[Run sheet: #s.device]
#if s.demo [#text(12pt, fill: stop, weight: 600)[ DEMO]]
#linebreak()
#text(fill: second)[#s.title · #s.where · #s.date]

#image(bytes(sys.inputs.drawing), width: 100%, alt: "the hook-up")

#for c in s.cautions [ #text(fill: stop)[#c] #linebreak() ]
#for (number, line) in s.order.enumerate(start: 1) [ #number. #line #linebreak() ]
#text(fill: second)[#s.total Write what the dial says, in the unit it shows. Time of the first reading: \_\_\_\_\_\_\_\_ #h(4mm) by: \_\_\_\_\_\_\_\_\_\_\_\_\_\_]
#v(1mm)
#table(
  columns: (auto, auto, auto, auto, auto, auto) + (1fr,) * s.readings.len(),
  stroke: none, inset: (x: 1.4mm, y: 1.5mm), align: left + horizon,
  table.header(
    ..("frequency", "level", "range", "round", "key down", "rest first").map(name => text(fill: second)[#name]),
    ..s.readings.map(name => text(fill: second)[#name]),
  ),
  table.hline(stroke: 0.6pt + ink),
  ..s.rows.map(r => (
    [#r.frequency], [#r.level], [#r.range], [#r.round], [#r.key_down], [#r.rest],
    ..range(s.readings.len()).map(n => if n < r.cells { box(width: 100%, height: 6mm, stroke: 0.5pt + second) } else { [] }),
  )).flatten(),
)
