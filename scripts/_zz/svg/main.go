package main

import (
	"fmt"

	"codeberg.org/go-pdf/fpdf"
)

func main() {
	p, err := fpdf.SVGBasicParse([]byte(`<svg width="1pt" height="1pt"><path d="M67 53V26Q67 16 58 16H40v-6h20Q74 10 74 24V54z"/></svg>`))
	fmt.Println(err)
	for _, s := range p.Paths[0].Segments {
		fmt.Printf("%c %v\n", s.Cmd, s.Arg)
	}
}
