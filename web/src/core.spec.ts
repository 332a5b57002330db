/** The core's own tests once more, in the browser: the same numbers, bit for bit. */
import '../../core/src/body/body.spec';
import '../../core/src/check/figures.spec';
import '../../core/src/clip/clip.spec';
import '../../core/src/formats/bvh/bvh.spec';
import '../../core/src/formats/formats.spec';
import '../../core/src/formats/glb/animation.spec';
import '../../core/src/formats/glb/glb.spec';
import '../../core/src/label/label.spec';
import '../../core/src/label/lexicon.spec';
import '../../core/src/label/odd-bodies.spec';
import '../../core/src/match/match.spec';
import '../../core/src/math/math.spec';
import '../../core/src/report/report.spec';
import '../../core/src/solve/properties.spec';
import '../../core/src/solve/stages.spec';
