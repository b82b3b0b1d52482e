package trial
import ("testing";"math/rand/v2";"fmt";"strings";"os";"strconv";"glenmist/core/engine";"glenmist/core/fault";"glenmist/core/plan")
func TestTrace(t *testing.T) {
	n, _ := strconv.Atoi(os.Getenv("N"))
	seed, _ := strconv.Atoi(os.Getenv("SEED"))
	rng := rand.New(rand.NewPCG(uint64(seed),0))
	for i := range n {
		p := engine.Shelf[rng.IntN(len(engine.Shelf))]
		var h fault.Hypothesis
		for h.Mode.ID=="" {
			u := rng.Float64()
			for _, x := range fault.Enumerate(p.Engine(), fault.Complaint{}) {
				if u -= x.Prior; u < 0 { if x.Mode.Unit!=fault.Else && x.Mode.Unit!=fault.NoFault { h = x }; break }
			}
		}
		s := Setup{Engine:p.Engine(),Hidden:[]fault.Hypothesis{h},Shop:plan.Default}
		if o := os.Getenv("ONLY"); o != "" && o != fmt.Sprint(i) { continue }
		r := s.Run(Policies[0], rand.New(rand.NewPCG(uint64(seed), uint64(i)+1)))
		if !r.Right || os.Getenv("ALL")!="" { fmt.Printf("%d %s %s right=%v proven=%v min=%.0f said=%.2f\n   %s\n", i, p.ID, h.Key(), r.Right, r.Proven, r.Minutes, r.Said, strings.Join(r.Trace,"\n   ")) }
	}
}
