text --non-interactive
url --mirrorlist="https://mirrors.larkmoor.example/?repo=BaseOS&arch=$basearch"
repo --name=appstream --mirrorlist="https://mirrors.larkmoor.example/?repo=AppStream&arch=$basearch"
lang de_DE.UTF-8
keyboard de
timezone Europe/Berlin
timesource --ntp-pool=pool.larkmoor.example
timesource --ntp-server=192.0.2.123
network --device=bond0 --bondslaves=eno1,eno2 --bondopts=mode=802.3ad,miimon=100 --bootproto=static --ip=198.51.100.20 --netmask=255.255.255.0 --gateway=198.51.100.1 --nameserver=192.0.2.53
network --device=bond0 --vlanid=30 --interfacename=bond0.30 --bootproto=static --ip=203.0.113.20 --netmask=255.255.255.128 --nodefroute
rootpw $6$larkmoor04$2sYv0Bz8mZr9T1mXq3b8k0Qz7m8t6jvJb2w4n1x5y7p9r3s5u7w9y1a3c5e7g9i1k3m5o7q9s1u3w5y7a9c1e. --iscrypted --allow-ssh
zerombr
clearpart --all --initlabel
part raid.11 --size=1024 --ondisk=sda
part raid.21 --size=1024 --ondisk=sdb
part raid.12 --size=20000 --grow --ondisk=sda
part raid.22 --size=20000 --grow --ondisk=sdb
part /boot/efi --fstype=efi --size=600 --ondisk=sda --fsoptions="umask=0077,shortname=winnt"
raid /boot --fstype=xfs --device=boot --level=RAID1 raid.11 raid.21
raid pv.01 --device=root --level=RAID1 raid.12 raid.22
volgroup sys pv.01
logvol / --vgname=sys --name=root --size=15000 --fstype=xfs
logvol swap --vgname=sys --name=swap --recommended
bootloader --timeout=3
selinux --enforcing
firewall --enabled --service=ssh
skipx
reboot --kexec
%packages
@^minimal-environment
%end
%post
curl -fsS http://192.0.2.10/keys/station.pub -o /root/station.pub
restorecon -R /root
%end
