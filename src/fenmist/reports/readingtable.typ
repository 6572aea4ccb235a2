// What readings stand for, large: a page for each instrument. Content comes as JSON; nothing is worked out here.
#let c = json(bytes(sys.inputs.content))
#let ink = rgb("#1B2A30")
#let second = rgb("#50626B")
#let hairline = rgb("#C9D3D7")
#let wash = rgb("#EDF1F2")
#let stop = rgb("#8A1538")

#set document(title: c.title, author: "Fenmist", keywords: ("RF", "reading table"))
#set page(
  paper: sys.inputs.paper, margin: (x: 16mm, top: 16mm, bottom: 16mm),
  footer: context [
    #set text(8pt, fill: second)
    #grid(columns: (1fr, auto), [#c.title · Fenmist · #c.date], [page #counter(page).display() of #counter(page).final().first()])
  ],
)
#set text(font: json(bytes(sys.inputs.fonts)), size: 10pt, fill: ink, lang: "en", number-width: "tabular")

#let large(headings, rows, size) = {
  set text(size)
  table(
    columns: if headings.len() > 4 { (1fr,) } else { (42mm,) } * headings.len(), stroke: none, inset: (x: 3mm, y: 1.25mm), align: right,
    fill: (_, row) => if row > 0 and calc.even(row) { wash },
    table.hline(stroke: 0.8pt + ink),
    table.header(..headings.map(name => text(11pt, fill: second)[#name])),
    table.hline(stroke: 0.5pt + hairline),
    ..rows.map(row => row.enumerate().map(((n, cell)) => if n == 0 { strong(cell) } else [#cell])).flatten(),
    table.hline(stroke: 0.8pt + ink),
  )
}

#for (number, t) in c.tables.enumerate() [
  #if number > 0 [#pagebreak()]
  #text(20pt, weight: 500)[#t.title]
  #if c.demo [#h(1fr) #text(12pt, fill: stop, weight: 600)[DEMO]]
  #linebreak()
  #text(11pt, fill: second)[#c.stated.]
  #large(("it shows", ..t.frequencies), t.rows, 15pt)
  #if t.levels.len() > 0 [
    #text(11pt, fill: second)[At the planned levels it should show]
    #large(("power", ..t.frequencies), t.levels, 13pt)
  ]
  #text(10pt)[#t.known Worked out from the bench as it is described; nothing was read for it.]
  #for line in c.cautions [#parbreak() #text(fill: stop)[#line]]
]
