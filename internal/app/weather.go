package app

import (
	"context"

	"jollysatchel/internal/cupboard/standin"
	"jollysatchel/internal/post/postroom"
	"jollysatchel/internal/web"
)

// What the weather that is kept is of.
const (
	ofCupboard = "cupboard"
	ofPostroom = "postroom"
)

// weather has the stand-ins suffer what they are told at the start, else what was said last;
// where they aren't shown, nobody could end it, and they are calm.
func (a *App) weather(ctx context.Context) error {
	var cup standin.Weather
	var post postroom.Weather
	if a.ShowStandins {
		for of, into := range map[string]any{ofCupboard: &cup, ofPostroom: &post} {
			if err := a.Cup.KeptWeather(ctx, of, into); err != nil {
				return err
			}
		}
	}
	if !a.Settings.Weather.Calm() {
		cup = a.Settings.Weather
	}
	a.Cup.SetWeather(cup)
	a.Postroom.SetWeather(post)
	return nil
}

// standins is the stand-in cupboard as the web's page needs it.
type standins struct{ cup *standin.Standin }

// Weather implements web.Standins.
func (s standins) Weather() web.Weather { return web.Weather(s.cup.Weather()) }

// SetWeather implements web.Standins.
func (s standins) SetWeather(ctx context.Context, w web.Weather) error {
	s.cup.SetWeather(standin.Weather(w))
	return s.cup.KeepWeather(ctx, ofCupboard, standin.Weather(w))
}

// Figures implements web.Standins.
func (s standins) Figures(ctx context.Context) (web.Figures, error) {
	f, err := s.cup.Figures(ctx)
	return web.Figures{Requests: f.Requests, Folders: f.Folders, Files: f.Files, Pointers: f.Pointers, Binned: f.Binned,
		Versions: f.Versions, Contents: f.Contents, Bytes: f.Bytes, People: f.People}, err
}
