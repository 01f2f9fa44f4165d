// Package chart draws tables and what links them: an entity-relationship picture of a selection, or a picture of dependencies. A
// Diagram says what is drawn, Place where, and the rest writes it: SVG, PNG, DOT, Mermaid. The same diagram gives the same bytes.
package chart
