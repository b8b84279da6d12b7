package web

import (
	"context"
	"time"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/web/api"
)

// A Weather is what the stand-in cupboard suffers; Unknown are accounts.
type Weather struct {
	Delay               time.Duration
	Errors, Lost, Limit float64
	Unknown             []string
}

// Figures are how much the stand-in cupboard holds.
type Figures struct{ Requests, Folders, Files, Pointers, Binned, Versions, Contents, Bytes, People int64 }

// Standins is the stand-in cupboard as its page needs it.
type Standins interface {
	Weather() Weather
	SetWeather(ctx context.Context, w Weather) error // kept for the next start
	Figures(ctx context.Context) (Figures, error)
}

// GetStandins implements the route of that name.
func (s *peopleRoutes) GetStandins(ctx context.Context, _ api.GetStandinsRequestObject) (api.GetStandinsResponseObject, error) {
	out, err := s.standinsView(ctx)
	return api.GetStandins200JSONResponse(out), err
}

func (s *peopleRoutes) standinsView(ctx context.Context) (api.Standins, error) {
	f, err := s.Standins.Figures(ctx)
	if err != nil {
		return api.Standins{}, err
	}
	w := s.Standins.Weather()
	people, err := s.people.Accounts(ctx, w.Unknown...)
	if err != nil {
		return api.Standins{}, err
	}
	n, err := s.people.CountAccounts(ctx)
	out := api.Standins{
		Weather: api.Weather{Delay: int(w.Delay / time.Millisecond), Errors: float32(w.Errors), Lost: float32(w.Lost),
			Limit: float32(w.Limit), Unknown: []string{}},
		Requests: f.Requests, Folders: f.Folders, Files: f.Files, Pointers: f.Pointers, Binned: f.Binned,
		Versions: f.Versions, Contents: f.Contents, Bytes: f.Bytes, People: f.People, Accounts: int64(n),
	}
	for _, id := range w.Unknown {
		out.Weather.Unknown = append(out.Weather.Unknown, people[id].Address)
	}
	return out, err
}

// SetWeather implements the route of that name.
func (s *peopleRoutes) SetWeather(ctx context.Context, r api.SetWeatherRequestObject) (api.SetWeatherResponseObject, error) {
	w := Weather{Delay: time.Duration(r.Body.Delay) * time.Millisecond, Errors: float64(r.Body.Errors),
		Lost: float64(r.Body.Lost), Limit: float64(r.Body.Limit)}
	for _, address := range r.Body.Unknown {
		a, ok, err := s.people.AccountOf(ctx, address)
		if err != nil {
			return nil, err
		}
		if !ok {
			return nil, change.Refuse("unknown", "account-unknown", "address", address)
		}
		w.Unknown = append(w.Unknown, a.ID)
	}
	if err := s.Standins.SetWeather(ctx, w); err != nil {
		return nil, err
	}
	out, err := s.standinsView(ctx)
	return api.SetWeather200JSONResponse(out), err
}
