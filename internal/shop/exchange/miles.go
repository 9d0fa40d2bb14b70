package exchange

import (
	"math"
	"slices"
	"strconv"
	"strings"

	"earnestpony/core/forecast"
)

// A shop of miles gives and takes distances in miles, under names that say so. Either name is read anywhere: a table knows
// its unit by its header.
var inMiles = map[string]string{"km": "miles", "weekly_km": "weekly_miles"}

// milesColumns are a table's columns as a shop of miles names them, and which of them are distances.
func milesColumns(columns []string) (named []string, distances []int) {
	named = slices.Clone(columns)
	for i, c := range named {
		if miles, is := inMiles[c]; is {
			named[i] = miles
			distances = append(distances, i)
		}
	}
	return named, distances
}

// ofColumn is the column that a header names, and by what its figures are to be multiplied.
func ofColumn(header string) (column string, times float64) {
	for km, miles := range inMiles {
		if header == miles {
			return km, float64(forecast.Mile)
		}
	}
	return header, 1
}

// scaled is a cell's figure times a factor, to so many digits; what is no figure stays as it is.
func scaled(cell string, times float64, digits int) string {
	v, err := strconv.ParseFloat(strings.TrimSpace(cell), 64)
	if err != nil || times == 1 {
		return cell
	}
	at := math.Pow10(digits)
	return strconv.FormatFloat(math.Round(v*times*at)/at, 'f', -1, 64)
}
