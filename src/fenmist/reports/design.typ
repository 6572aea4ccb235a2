// A design's sheet. Content comes as JSON, drawings as SVG; nothing is worked out here.
#let c = json(bytes(sys.inputs.content))
#let ink = rgb("#1B2A30")
#let second = rgb("#50626B")
#let hairline = rgb("#C9D3D7")
#let stop = rgb("#8A1538")

#set document(title: c.title, author: "Fenmist", keywords: ("RF", "design"))
#set page(
  paper: sys.inputs.paper,
  margin: (x: 20mm, top: 20mm, bottom: 20mm),
  header: [
    #set text(8pt, fill: second)
    #grid(columns: (1fr, auto), [#c.title], if c.demo [#text(fill: stop, weight: 600)[DEMO]])
    #v(-6pt) #line(length: 100%, stroke: 0.5pt + hairline)
  ],
  footer: context [
    #set text(8pt, fill: second)
    #grid(columns: (1fr, auto), [Fenmist · #c.date], [page #counter(page).display() of #counter(page).final().first()])
  ],
)
#set text(font: json(bytes(sys.inputs.fonts)), size: 9pt, fill: ink, lang: "en", number-width: "tabular")
#set par(leading: 0.55em)
#show heading: it => block(above: 12pt, below: 6pt, text(10pt, weight: 600, it.body))

#text(15pt, weight: 500)[#c.headline]

#image(bytes(sys.inputs.circuit), format: "svg", width: 100%, alt: c.circuit_alt)

#grid(
  columns: (34mm, 1fr), row-gutter: 4.5pt,
  ..c.facts.map(((name, value)) => (text(fill: second)[#name], [#value])).flatten()
)

#block(breakable: false)[
  = What it does over frequency
  #image(bytes(sys.inputs.response), format: "svg", width: 100%, alt: c.response_alt)
  #if c.sensitivity != "" [#c.sensitivity]
  #if c.proof != "" [#parbreak() #c.proof]
]

#block(breakable: false)[
  = What each piece takes
  #set text(8pt)
  #table(
    columns: c.strain_headings.len(), stroke: none, inset: (x: 5pt, y: 3pt),
    align: (col, row) => if col == 0 { left } else { right },
    table.hline(stroke: 0.5pt + ink),
    table.header(..c.strain_headings.map(name => text(fill: second)[#name])),
    table.hline(stroke: 0.5pt + hairline),
    ..c.strains.flatten().map(cell => [#cell]),
    table.hline(stroke: 0.5pt + ink),
  )
]

#if c.notes.len() > 0 [
  = To mind
  #for (severity, what, why, remedy) in c.notes [
    #block(breakable: false)[*#severity: #what* #why #emph[#remedy]]
  ]
]

#v(6pt)
#for line in c.statements [#text(8pt, fill: second)[#line] #parbreak()]
