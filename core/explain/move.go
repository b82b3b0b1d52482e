package explain

import (
	"fmt"
	"strings"

	"glenmist/core/diagnose"
	"glenmist/core/part"
	"glenmist/core/unit"
)

// whereabouts returns the destinations of a move.
func whereabouts(d diagnose.Decode) string {
	words := make([]string, len(d.Ways))
	for i, w := range d.Ways {
		words[i] = fmt.Sprintf("%s is %s", w.Parts(), part.At(w.Place))
	}
	return strings.Join(words, ", ")
}

// Move is the outcome of a move in a short sentence.
func Move(d diagnose.Decode) string {
	switch d.Outcome {
	case diagnose.Waiting:
		return "Waiting for a run: " + whereabouts(d)
	case diagnose.Followed:
		if d.Back() {
			return fmt.Sprintf("The misfire came back with %s on %s", d.Parts(), d.To)
		}
		return fmt.Sprintf("The misfire followed %s to %s", d.Parts(), d.To)
	case diagnose.Stayed:
		return fmt.Sprintf("The misfire stayed on %s without %s", d.From, everyPart(d))
	case diagnose.Both:
		return fmt.Sprintf("The misfire is on %s and on %s", d.From, d.To&^d.From)
	case diagnose.Gone:
		switch {
		case d.Back():
			return "No misfire with " + d.Parts() + " back in: that proves nothing yet"
		case d.OnBench():
			return "The misfire is gone with " + d.Parts() + " on the bench: that proves nothing yet"
		}
		return "The misfire is nowhere: that proves nothing yet"
	case diagnose.Elsewhere:
		return "The misfire is on a cylinder that had no part in the move"
	}
	return "Too little was watched to say what the move did"
}

func everyPart(d diagnose.Decode) string {
	words := make([]string, len(d.Ways))
	for i, w := range d.Ways {
		words[i] = w.Parts()
	}
	return strings.Join(words, " and ")
}

// Advice explains an outcome that is not clear, or returns "".
func Advice(d diagnose.Decode) string {
	switch d.Outcome {
	case diagnose.Both:
		return "Two faults, a part that came in exchange and is weak too, or something left fouled behind."
	case diagnose.Gone:
		if d.OnBench() {
			return fmt.Sprintf("Put %s back: if the misfire comes back with it, that part it is. If not, a connector, boot or seat was cured by touching it.", d.Parts())
		}
		return "It may come and go, or touching a connector, boot or seat has cured it for a while. Run longer, in the condition where it fails, before anything is condemned."
	case diagnose.Elsewhere:
		return "Something else was disturbed in the work: look at what was touched on that cylinder."
	case diagnose.Unclear:
		if d.More > 0 {
			return fmt.Sprintf("If it stays clean, about %s more revolutions would show that it is gone.", unit.Thousands(d.More))
		}
		return "Run longer, in the condition where it fails, with the counters from zero."
	}
	return ""
}
