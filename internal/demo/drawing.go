package demo

import (
	"bytes"
	"image"
	"image/color"
	"image/png"
)

// drawing is a small picture of a rock pool, as a student might add one.
var drawing = func() string {
	img := image.NewRGBA(image.Rect(0, 0, 240, 160))
	for y := range 160 {
		for x := range 240 {
			c := color.RGBA{214, 200, 170, 255}
			dx, dy := float64(x-120)/90, float64(y-85)/55
			if r := dx*dx + dy*dy; r < 1 {
				c = color.RGBA{uint8(60 + 60*r), uint8(120 + 50*r), uint8(140 + 40*r), 255}
			}
			img.SetRGBA(x, y, c)
		}
	}
	var b bytes.Buffer
	if err := png.Encode(&b, img); err != nil {
		panic(err) // an image in memory always encodes
	}
	return b.String()
}()
