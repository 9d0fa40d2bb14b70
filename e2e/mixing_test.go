package e2e

import "testing"

// A mechanic mixes a tray, then tops a jar up; what cannot be reached is said at its field.
func TestMixing(t *testing.T) {
	t.Parallel()
	s := startServer(t)
	tobiah := s.open(startBrowser(t), 390, 844)
	tobiah.signIn("Tobiah Marsh", "3141")
	tobiah.visit("/stock/fluids")
	tobiah.sees("[data-testid=mix]", "333 mL")
	tobiah.press("Jar 250")
	tobiah.sees("[data-testid=mix]", "167 mL")
	tobiah.press("Topping up")
	for name, typed := range map[string]string{"have_ml": "300", "have_strength_pct": "20", "want_ml": "400", "want_strength_pct": "10"} {
		tobiah.fill(name, typed)
	}
	tobiah.sees("main", "15.0 % with water alone")
	tobiah.fill("want_strength_pct", "35")
	tobiah.sees("[data-testid=mix]", "20 mL")
	tobiah.sees("[data-testid=mix]", "80 mL")
}
