package draw

import (
	"fmt"
	"slices"
	"strings"

	"glenmist/core/course"
	"glenmist/core/unit"
)

// Course is the picture of a job's course: the probability of the leading units over the entries.
type Course struct {
	Picture
	Stops []Stop
}

// Stop is the column of one entry.
type Stop struct {
	X, Wide float64
	Seq     int
	Words   string
}

// Measures of the picture, in pixels.
const (
	courseW, courseH = 310, 116
	courseLeft       = 8
	courseTop        = 8
	courseWide       = 146
	courseTall       = 86
	courseLine       = 15
)

// NewCourse draws the course of a job; it is nil without points.
func NewCourse(points []course.Point, beliefs []course.Belief) *Course {
	if len(points) == 0 || len(beliefs) == 0 {
		return nil
	}
	c := &Course{Picture: Picture{W: courseW, H: courseH}}
	plot := c.Plot(courseLeft, courseTop, courseWide, courseTall, 0, 1)
	step := plot.Wide / float64(len(points))
	for _, p := range []float64{0, 0.5, 1} {
		c.Line("grid", fmt.Sprintf("M%d %.1fh%d", courseLeft, plot.At(p), courseWide))
	}
	for i, p := range points {
		x := courseLeft + step*(float64(i)+0.5)
		c.Stops = append(c.Stops, Stop{X: x, Wide: step, Seq: p.Seq, Words: p.Words})
		if i == 0 || i == len(points)-1 || len(points) <= 8 {
			c.Text("small", x+step/2, courseTop+courseTall+15, "middle", fmt.Sprint(p.Seq))
		}
	}
	type label struct {
		k int
		y float64
	}
	var labels []label
	var words []string
	for k, b := range beliefs {
		var path strings.Builder
		for i, p := range b.P {
			fmt.Fprintf(&path, "%c%.1f %.1f", "ML"[min(i, 1)], courseLeft+step*float64(i), plot.At(p))
		}
		c.Line(fmt.Sprintf("belief-%d", k+1), path.String())
		end := b.P[len(b.P)-1]
		labels = append(labels, label{k, plot.At(end)})
		words = append(words, fmt.Sprintf("%s from %s to %s", b.Short, unit.Percent(b.P[0]), unit.Percent(end)))
	}
	slices.SortStableFunc(labels, func(x, y label) int { return int(x.y - y.y) })
	for i := range labels { // apart, and inside the picture
		if i > 0 {
			labels[i].y = max(labels[i].y, labels[i-1].y+courseLine)
		}
		labels[i].y = min(labels[i].y, courseTop+courseTall-courseLine*float64(len(labels)-1-i)+4)
	}
	for _, l := range labels {
		b := beliefs[l.k]
		x := float64(courseLeft + courseWide + 8)
		c.Line(fmt.Sprintf("belief-%d", l.k+1), fmt.Sprintf("M%.1f %.1fh14", x-4, l.y))
		c.Text("small", x+14, l.y+4, "start", fmt.Sprintf("%s %s", unit.Percent(b.P[len(b.P)-1]), b.Short))
	}
	c.Words = "Probability over the entries: " + strings.Join(words, "; ")
	return c
}
