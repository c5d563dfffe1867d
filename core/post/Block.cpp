#include "post/Block.h"

namespace gyre {

int groupOf(int tenths) {
    switch (tenths) {
    case 0:
    case 10:
    case 20:
    case 30:
    case 730:
    case 800:
    case 810:
    case 820:
    case 830:
    case 840:
    case 850:
    case 890:
        return 1;
    case 170:
    case 180:
    case 190:
        return 2;
    case 900:
        return 3;
    case 930:
    case 940:
    case 950:
        return 5;
    case 200:
    case 210:
        return 6;
    case 400:
        return 7;
    case 430:
    case 434:
    case 490:
        return 8;
    case 980:
    case 990:
        return 10;
    case 540:
    case 550:
    case 560:
    case 570:
    case 580:
    case 590:
        return 12;
    case 610:
    case 640:
        return 13;
    case 682:
    case 690:
        return 16;
    case 40:
        return 100;
    case 530:
        return 101;
    case 531:
        return 102;
    default:
        return 0;
    }
}

} // namespace gyre
