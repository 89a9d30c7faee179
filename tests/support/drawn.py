"""What a drawing lacks, measured in the browser."""

# Shapes in the browser's own black, as when their rule is lost, and lines that nothing shows.
UNRULED = """() => [...document.querySelectorAll('svg :is(path, rect, circle, ellipse, line, polyline, polygon)')]
  .filter((e) => e.checkVisibility() && !e.closest('.qr, defs, clipPath, mask, symbol, pattern, marker'))
  .map((e) => [e, getComputedStyle(e)])
  .filter(([e, style]) => {
    const flat = e.getBBox().width < 0.01 || e.getBBox().height < 0.01;
    const filled = !flat && style.fill !== 'none';
    return (filled && style.fill === 'rgb(0, 0, 0)' && style.fillOpacity !== '0' && style.opacity !== '0')
      || (flat && style.stroke === 'none' && e.matches('path, line, polyline'));
  })
  .map(([e]) => e.outerHTML.slice(0, 90))"""
