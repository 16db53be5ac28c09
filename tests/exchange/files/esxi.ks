accepteula
clearpart --firstdisk --overwritevmfs
install --firstdisk --overwritevmfs
rootpw --iscrypted $6$a$b1234567890123456789
network --bootproto=static --device=vmnic0 --ip=192.0.2.40 --netmask=255.255.255.0 --gateway=192.0.2.1 --nameserver=192.0.2.53 --hostname=lmr-host-04.larkmoor.example --addvmportgroup=1
keyboard German
reboot --noeject
%firstboot --interpreter=busybox
vim-cmd hostsvc/enable_ssh
%end
