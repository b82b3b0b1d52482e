package diagnose

import "glenmist/core/plug"

// KeyClasses are the classes that the key of questions tells apart, with what each looks like.
// How the engine was run counts as it does in the reasoning: a wet tip after a cold start is
// not asked for.
func KeyClasses(of []PlugClass, wet float64) []plug.Class {
	var all []plug.Class
	for _, c := range of {
		rows := map[string][]float64{}
		for _, a := range plug.Aspects {
			row := SignChance(c.Bearing, a.ID)
			if a.ID == "wet" {
				for i := range row {
					row[i] = wet*row[i] + (1-wet)*wetAnyway[i]
				}
			}
			rows[a.ID] = row
		}
		all = append(all, plug.Class{P: c.P, Signs: func(aspect string) []float64 { return rows[aspect] }})
	}
	return all
}
