// A tool's answer. Content comes as JSON, the drawing as SVG; nothing is worked out here.
#let c = json(bytes(sys.inputs.content))
#let ink = rgb("#1B2A30")
#let second = rgb("#50626B")
#let hairline = rgb("#C9D3D7")
#let stop = rgb("#8A1538")

#set document(title: c.title, author: "Fenmist", keywords: ("RF",))
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
#set text(font: json(bytes(sys.inputs.fonts)), size: 10pt, fill: ink, lang: "en", number-width: "tabular")
#set par(leading: 0.6em)
#show heading: it => block(above: 14pt, below: 7pt, text(10.5pt, weight: 600, it.body))
#let pairs(rows) = grid(
  columns: (52mm, 1fr), row-gutter: 6pt,
  ..rows.map(((name, value)) => (text(fill: second)[#name], [#value])).flatten()
)

#text(15pt, weight: 500)[#c.headline]

= What follows
#pairs(c.facts)

#if sys.inputs.picture != "" [#v(4pt) #image(bytes(sys.inputs.picture), format: "svg", width: 100%, alt: c.picture_alt)]

= From
#pairs(c.asked)

#if c.notes.len() > 0 [
  = To mind
  #for (severity, what, why, remedy) in c.notes [
    #block(breakable: false)[*#severity: #what* #why #emph[#remedy]]
  ]
]

#v(6pt)
#for line in c.statements [#text(8pt, fill: second)[#line] #parbreak()]
