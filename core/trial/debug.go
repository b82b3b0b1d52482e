package trial
import ("fmt";"glenmist/core/diagnose";"glenmist/core/plan")
func Debug(a *diagnose.Assessment, p plan.Plan) string {
 s := fmt.Sprintf("   [%.0f/%.0f", p.With, p.Without)
 for i := range 4 { s += fmt.Sprintf(" %s %.2f", a.Suspects[i].Key(), a.Suspects[i].P) }
 return s+"]"
}
