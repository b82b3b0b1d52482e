package web

import (
	"embed"
	"io/fs"

	"glenmist/web/capture"
	"glenmist/web/draw"
	"glenmist/web/exchange"
	"glenmist/web/finding"
	"glenmist/web/jobs"
	"glenmist/web/live"
	"glenmist/web/page"
	"glenmist/web/plugs"
	"glenmist/web/proof"
	"glenmist/web/repair"
	"glenmist/web/staff"
	"glenmist/web/vehicle"
	"glenmist/web/workshop"
)

// built holds the output of the asset build, and the logo.
//
//go:embed all:static mark.svg
var built embed.FS

// templates lists the templates of all packages.
var templates = []fs.FS{page.Layout, draw.Templates, jobs.Templates, vehicle.Templates, workshop.Templates, capture.Templates, plugs.Templates, repair.Templates, proof.Templates, exchange.Templates, live.Templates, finding.Templates, staff.Templates}

// Licences returns the notices of third-party work in the binary.
func Licences() string {
	text, err := built.ReadFile("static/licences.txt")
	if err != nil {
		return "This binary was built without its notices; make build makes them.\n"
	}
	return string(text)
}
