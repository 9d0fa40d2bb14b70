package outside

import (
	"context"
	"math"
	"math/rand/v2"
	"time"
)

// DayWeather is what a day was like.
type DayWeather struct {
	Day    time.Time // midnight, UTC
	RainMM float64
	MinC   float64
	MaxC   float64
}

// WeatherHistory tells what the days were like where the shop is, one for each day from the first to the last.
// A service that knows is put in the place of the simulated one by answering this.
type WeatherHistory interface {
	Days(ctx context.Context, from, to time.Time) ([]DayWeather, error)
}

// SimulatedWeather is a history of Saltern Mouth, an invented town by the sea: mild, wet in winter, the same
// for every day whoever asks.
type SimulatedWeather struct{ Seed uint64 }

// OfTheTown is the history that ships.
var OfTheTown = SimulatedWeather{Seed: 1}

// Days tells what the days were like.
func (s SimulatedWeather) Days(_ context.Context, from, to time.Time) ([]DayWeather, error) {
	var all []DayWeather
	for day := midnight(from); !day.After(midnight(to)); day = day.AddDate(0, 0, 1) {
		all = append(all, s.day(day))
	}
	return all, nil
}

func midnight(t time.Time) time.Time {
	return time.Date(t.Year(), t.Month(), t.Day(), 0, 0, 0, 0, time.UTC)
}

func (s SimulatedWeather) day(day time.Time) DayWeather {
	number := uint64(day.Unix() / (24 * 60 * 60))
	chance := rand.New(rand.NewPCG(s.Seed, number))
	// Warmest at the end of July, coldest at the end of January.
	season := math.Cos(2 * math.Pi * float64(day.YearDay()-208) / 365)
	mean := 10.5 + 6*season + 2.5*chance.NormFloat64()
	w := DayWeather{Day: day, MinC: mean - 3 - 2*chance.Float64(), MaxC: mean + 3 + 3*chance.Float64()}
	if chance.Float64() < 0.38-0.12*season {
		w.RainMM = math.Round(10*4*chance.ExpFloat64()) / 10
	}
	return w
}
